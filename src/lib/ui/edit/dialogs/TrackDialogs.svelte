<!-- What is asked of a track: what it is for, and whether it goes with its clips. -->
<script lang="ts">
  import { Modal, RadioButton, RadioButtonGroup } from "carbon-components-svelte";
  import { ROLES, type Role } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session } = editor;
  const track = $derived(editor.askedTrack);
  const clips = $derived(track ? session.shown.uses("tracks", track.id) : 0);
  const close = () => (editor.dialog = null);
  // svelte-ignore state_referenced_locally
  let role = $state<string>(track?.role ?? "none");

  function remove(): void {
    if (track) session.run({ type: "track.remove", trackId: track.id });
    close();
  }

  function say(): void {
    const known = ROLES.find((one) => one === role) ?? null;
    if (track && known !== (track.role ?? null))
      session.run({ type: "track.set", trackId: track.id, role: known satisfies Role | null });
    close();
  }
</script>

{#if track && editor.dialog === "trackRemove"}
  <Modal
    open
    danger
    size="xs"
    modalHeading="Remove {track.name}?"
    primaryButtonText="Remove"
    secondaryButtonText="Cancel"
    on:submit={remove}
    on:close={close}
    on:click:button--secondary={close}
  >
    <p>
      {clips} clip{clips === 1 ? " lies" : "s lie"} on it and will go with it. Their recordings stay on the shelf,
      and Undo brings all of it back.
    </p>
  </Modal>
{:else if track}
  <Modal
    open
    size="xs"
    modalHeading="What is {track.name} for?"
    primaryButtonText="Say so"
    secondaryButtonText="Cancel"
    on:submit={say}
    on:close={close}
    on:click:button--secondary={close}
  >
    <RadioButtonGroup legendText="Role" orientation="vertical" bind:selected={role}>
      <RadioButton labelText="not said" value="none" />
      {#each ROLES as one (one)}<RadioButton labelText={one} value={one} />{/each}
    </RadioButtonGroup>
  </Modal>
{/if}
