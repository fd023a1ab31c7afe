<!-- Renders the selected clips: how much of them, into how many recordings, up to which step, under which name. -->
<script lang="ts">
  import {
    Checkbox,
    Modal,
    RadioButton,
    RadioButtonGroup,
    Select,
    SelectItem,
    TextInput
  } from "carbon-components-svelte";
  import { findEffect } from "$lib/core/effects/registry";
  import { resolveClip } from "$lib/core/session/lookup";
  import { parseTime } from "$lib/core/units/time";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { renderSelection, type Rendering } from "../../state/rendering";

  const editor = useEditor();
  const { session, selection, sampleRate } = editor;
  let what = $state<Rendering["what"]>(selection.range ? "range" : "clip");
  let handles = $state("2 s");
  let tail = $state("auto");
  let tailText = $state("4 s");
  let shared = $state(true);
  let upTo = $state("all");
  let name = $state("");

  const clips = selection.targets.map(({ clip }) => resolveClip(session.shown, clip));
  const [clip] = clips;
  const treated = clips.some((one) => one.steps.some((step) => step.on));
  let into = $state<"each" | "one">(treated || clips.length < 2 ? "each" : "one");
  const handleSeconds = $derived(parseTime(handles));
  const tailSeconds = $derived(parseTime(tailText));
  const each = $derived(into === "each");
  const badHandles = $derived(
    each && what === "clip" && (handleSeconds === undefined || handleSeconds < 0 || handleSeconds > 3600)
  );
  const badTail = $derived(
    each && tail === "fixed" && (tailSeconds === undefined || tailSeconds < 0 || tailSeconds > 60)
  );
  const rings = clips.some((one) => one.ringOut);
  const have = $derived.by(() => {
    if (!clip || clips.length > 1 || handleSeconds === undefined) return "As far as each recording has them.";
    const before = Math.min(handleSeconds, clip.offset / sampleRate);
    const after = Math.min(
      handleSeconds,
      Math.max(0, clip.recordingFrames - clip.offset - clip.length) / sampleRate
    );
    return `The recording has ${before.toFixed(2)} s before the clip and ${after.toFixed(2)} s after it for handles.`;
  });

  function go(): void {
    if (badHandles || badTail) return;
    editor.dialog = null;
    renderSelection(editor, {
      what,
      into,
      upTo: upTo === "all" ? null : Number(upTo),
      handles: what === "recording" ? "all" : (handleSeconds ?? 2),
      tail: tail === "auto" ? "auto" : (tailSeconds ?? 4),
      shared,
      name: name.trim() || null
    }).catch((error: unknown) => notices.fault(error));
  }
</script>

<Modal
  open
  size="sm"
  modalHeading={clips.length > 1 ? `Render ${clips.length} clips` : `Render ${clip?.name ?? ""}`}
  primaryButtonText="Render"
  secondaryButtonText="Cancel"
  primaryButtonDisabled={badHandles || badTail}
  selectorPrimaryFocus="input"
  on:submit={go}
  on:close={() => (editor.dialog = null)}
  on:click:button--secondary={() => (editor.dialog = null)}
>
  <p>
    {#if each}
      The steps stay with the clips, and Restore takes a render away again. Inside a clip it sounds exactly as
      now.
    {:else}
      The clips come to lie muted below one that sounds as they do together; undo brings them back.
    {/if}
  </p>
  <RadioButtonGroup legendText="What" orientation="vertical" bind:selected={what}>
    {#if selection.range}<RadioButton
        value="range"
        labelText="The selected range: clips are cut at its ends"
      />{/if}
    <RadioButton value="clip" labelText={clips.length > 1 ? "The clips" : "The clip"} />
    {#if each}<RadioButton
        value="recording"
        labelText="The whole recording behind it, so that it can be trimmed to its ends"
      />{/if}
  </RadioButtonGroup>
  {#if clips.length > 1}
    <RadioButtonGroup legendText="Into" orientation="vertical" bind:selected={into}>
      <RadioButton value="each" labelText="A recording for each clip" disabled={!treated} />
      <RadioButton
        value="one"
        labelText="One recording of all together, on a track of its own; the clips are muted"
      />
    </RadioButtonGroup>
  {/if}
  {#if each}
    <div class="fields">
      <div class="pair">
        {#if what !== "recording"}
          <TextInput
            size="sm"
            labelText="Handles on both sides"
            helperText={rings ? "None where a clip rings out: its tail is rendered instead." : have}
            bind:value={handles}
            invalid={badHandles}
            invalidText="A time such as 2 s or 500 ms."
          />
        {/if}
        {#if clips.length === 1 && clip && clip.steps.length > 1}
          <Select size="sm" labelText="Up to the step" bind:selected={upTo}>
            {#each clip.steps.slice(0, -1) as step, i (step.id)}
              <SelectItem
                value={String(i + 1)}
                text="{i + 1} {findEffect(step.effect)?.name ?? step.effect}; later ones play live"
              />
            {/each}
            <SelectItem
              value="all"
              text="{clip.steps.length} {findEffect(clip.steps.at(-1)?.effect ?? '')?.name ?? ''}: all"
            />
          </Select>
        {/if}
      </div>
      {#if !rings}
        <RadioButtonGroup legendText="Tail after the end" orientation="vertical" bind:selected={tail}>
          <RadioButton value="auto" labelText="Measured: until it is 60 dB down, 30 s at most" />
          <RadioButton value="fixed" labelText="Of a fixed length" />
        </RadioButtonGroup>
        {#if tail === "fixed"}
          <TextInput
            size="sm"
            labelText="Length of the tail"
            bind:value={tailText}
            invalid={badTail}
            invalidText="A time up to 60 s."
          />
        {/if}
      {/if}
      {#if clips.length > 1}
        <Checkbox
          labelText="One recording for all clips that show the same stretch, treated alike"
          bind:checked={shared}
        />
      {/if}
    </div>
  {/if}
  <TextInput
    size="sm"
    labelText="Name of the recording"
    placeholder={each ? "after its source and its steps, with a number" : "after the clips, with a number"}
    maxlength={100}
    bind:value={name}
  />
</Modal>

<style>
  p {
    margin-bottom: 10px;
    font-size: 13px;
  }

  .pair {
    display: grid;
    grid-template-columns: 1fr 1fr;
    align-items: start;
    gap: 12px;
  }

  .fields {
    display: grid;
    gap: 10px;
    margin: 10px 0;
  }
</style>
