<!-- Recordings that nothing uses, with their sizes: moved to the bin, and brought back from it. -->
<script lang="ts">
  import { onMount } from "svelte";
  import { Button, Checkbox, Modal } from "carbon-components-svelte";
  import { recordingsByName } from "$lib/core/session/lookup";
  import type { Recording } from "$lib/core/session/schema";
  import { BIN_DAYS, type SizesView } from "$lib/api/space";
  import { api } from "../../shared/api";
  import { day } from "../../shared/day";
  import { notices } from "../../shared/notices.svelte";
  import { toggled } from "../../shared/toggled";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session } = editor;
  let sizes = $state.raw<SizesView>({});
  const all = $derived(recordingsByName(session.shown));
  const unused = $derived(
    all.filter((one) => one.binned === undefined && session.shown.uses("recordings", one.id) === 0)
  );
  const binned = $derived(all.filter((one) => one.binned !== undefined));
  let kept = $state.raw<ReadonlySet<string>>(new Set());
  const chosen = $derived(unused.filter(({ id }) => !kept.has(id)));
  const close = () => (editor.dialog = null);
  const bytesOf = (some: readonly Recording[]) => some.reduce((sum, { id }) => sum + (sizes[id] ?? 0), 0);
  const text = (bytes: number) =>
    bytes >= 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(1)} MB`;

  onMount(() => {
    api
      .get<SizesView>(`/api/projects/${session.projectId}/sizes`)
      .then((view) => (sizes = view))
      .catch((error: unknown) => notices.fault(error));
  });

  const toggle = (id: string) => (kept = toggled(kept, id));

  function go(): void {
    if (chosen.length === 0) return;
    session.run({ type: "recording.bin", recordingIds: chosen.map(({ id }) => id), at: Date.now() });
  }

  const back = (ids: string[]) => session.run({ type: "recording.bin", recordingIds: ids, at: null });
</script>

<Modal
  open
  size="sm"
  modalHeading="Clean up recordings"
  primaryButtonText={chosen.length === 0 ? "Nothing to move" : `Move ${chosen.length} to the bin`}
  secondaryButtonText="Close"
  primaryButtonDisabled={chosen.length === 0}
  on:submit={go}
  on:close={close}
  on:click:button--secondary={close}
>
  {#if unused.length === 0}
    <p>Every recording of this project is in use: by a clip, a render, a version or a chain.</p>
  {:else}
    <p>
      Nothing uses these: no clip, no render, no version, no chain. In the bin they lie for {BIN_DAYS} days; undo,
      or “Put back”, brings them back. Then they leave the project.
    </p>
    <ul aria-label="Recordings that nothing uses">
      {#each unused as recording (recording.id)}
        <li>
          <Checkbox
            labelText={recording.name}
            checked={!kept.has(recording.id)}
            on:check={({ detail }) => detail === kept.has(recording.id) && toggle(recording.id)}
          />
          <span class="soft">{recording.kind}</span>
          <span class="number">{text(sizes[recording.id] ?? 0)}</span>
        </li>
      {/each}
    </ul>
    <p>{chosen.length} of {unused.length}, {text(bytesOf(chosen))}</p>
  {/if}
  {#if binned.length > 0}
    <h3>In the bin</h3>
    <ul aria-label="Recordings in the bin">
      {#each binned as recording (recording.id)}
        <li>
          <span class="name">{recording.name}</span>
          <span class="soft">since {day(new Date(recording.binned ?? 0).toISOString())}</span>
          <span class="number">{text(sizes[recording.id] ?? 0)}</span>
          <Button
            kind="ghost"
            size="small"
            aria-label="Put {recording.name} back"
            on:click={() => back([recording.id])}>Put back</Button
          >
        </li>
      {/each}
    </ul>
  {/if}
</Modal>

<style>
  p {
    margin-bottom: 10px;
    font-size: 13px;
  }

  h3 {
    margin: 12px 0 4px;
    font-size: 13px;
    font-weight: 600;
  }

  ul {
    max-height: 220px;
    padding: 2px 10px;
    overflow-y: auto;
    border: 1px solid var(--w-rule);
    font-size: 13px;
  }

  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto auto auto;
    align-items: center;
    gap: 10px;
    min-height: 28px;
  }

  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
