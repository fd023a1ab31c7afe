<!-- Names the clips that will hear steps of one clip, before they go over to their recording. -->
<script lang="ts">
  import { Checkbox, Modal } from "carbon-components-svelte";
  import { findEffect } from "$lib/core/effects/registry";
  import { sharers } from "$lib/core/session/lookup";
  import { ownerFault } from "$lib/core/session/owners";
  import { toggled } from "../../shared/toggled";
  import { useEditor } from "../../state/editor.svelte";
  import { newId } from "../../state/editing";

  const editor = useEditor();
  const { session, selection } = editor;
  // As it was when the dialog opened.
  const clip = selection.clip;
  const others = clip ? sharers(session.shown, clip) : [];
  const recording = clip && session.shown.get("recordings", clip.recordingId);
  const rows = (clip?.steps ?? []).map((step) => ({ step, fault: ownerFault("recordings", step) }));
  let chosen = $state.raw<ReadonlySet<string>>(
    new Set(rows.filter(({ fault }) => fault === undefined).map(({ step }) => step.id))
  );
  const close = () => (editor.dialog = null);

  const toggle = (id: string) => (chosen = toggled(chosen, id));

  function go(): void {
    if (!clip || chosen.size === 0) return;
    const stepIds = rows.map(({ step }) => step.id).filter((id) => chosen.has(id));
    const done = session.run({ type: "steps.toRecording", clipId: clip.id, stepIds, chainId: newId() });
    if (done) selection.chooseOwner({ table: "recordings", id: clip.recordingId });
    close();
  }
</script>

{#if clip && recording}
  <Modal
    open
    size="sm"
    modalHeading="Treat all clips of {recording.name}"
    primaryButtonText="Treat all of them"
    secondaryButtonText="Cancel"
    primaryButtonDisabled={chosen.size === 0}
    on:submit={go}
    on:close={close}
    on:click:button--secondary={close}
  >
    <p>
      The chosen steps go from {clip.name} to its recording. {others.length + 1}
      {others.length === 0 ? "clip shows" : "clips show"} it and will hear them, before their own chains:
    </p>
    <ul aria-label="Clips that will hear it">
      {#each [clip, ...others] as one (one.id)}
        <li>{one.name}, on {session.shown.get("tracks", one.track)?.name ?? ""}</li>
      {/each}
    </ul>
    <fieldset>
      <legend>Steps</legend>
      {#each rows as { step, fault } (step.id)}
        <Checkbox
          labelText={fault ?? findEffect(step.effect)?.name ?? step.effect}
          checked={chosen.has(step.id)}
          disabled={fault !== undefined}
          on:check={({ detail }) => detail !== chosen.has(step.id) && toggle(step.id)}
        />
      {/each}
    </fieldset>
  </Modal>
{/if}

<style>
  p,
  ul {
    margin-bottom: 10px;
    font-size: 13px;
  }

  ul {
    max-height: 140px;
    padding: 6px 10px;
    overflow-y: auto;
    border: 1px solid var(--w-rule);
  }

  legend {
    margin-bottom: 4px;
    font-size: 12px;
  }
</style>
