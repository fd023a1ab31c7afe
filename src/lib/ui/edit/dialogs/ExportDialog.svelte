<script lang="ts">
  import { Checkbox, Link, Modal, RadioButton, RadioButtonGroup } from "carbon-components-svelte";
  import { programmeOver } from "$lib/core/render/graph";
  import type { OutputFormat } from "$lib/core/formats/wavWriter";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, selection, jobs, sampleRate } = editor;
  let format = $state<OutputFormat>("int24");
  let dither = $state(true);
  let what = $state(selection.range ? "range" : "all");

  const end = $derived(programmeOver(session.document));
  const from = $derived(what === "range" && selection.range ? selection.range.from : 0);
  const to = $derived(what === "range" && selection.range ? selection.range.to : end);
  const bytes = $derived(((to - from) * 2 * { int16: 16, int24: 24, float32: 32 }[format]) / 8);
  const time = (frame: number) => formatTime(frame / sampleRate);

  function go(): void {
    if (to <= from) return;
    editor.dialog = null;
    jobs.begin({ kind: "export", from, to, format, dither: dither && format !== "float32" });
  }
</script>

<Modal
  open
  size="sm"
  modalHeading="Export the mix"
  primaryButtonText="Export"
  secondaryButtonText="Cancel"
  primaryButtonDisabled={to <= from}
  on:submit={go}
  on:close={() => (editor.dialog = null)}
  on:click:button--secondary={() => (editor.dialog = null)}
>
  {#if end === 0}
    <p>There is nothing to export yet: put a clip on a track first.</p>
  {:else}
    <div class="parts">
      <RadioButtonGroup legendText="What" orientation="vertical" bind:selected={what}>
        <RadioButton value="all" labelText={`The whole programme, ${time(end)}`} />
        <RadioButton
          value="range"
          disabled={!selection.range}
          labelText={selection.range
            ? `The range, ${time(selection.range.from)} to ${time(selection.range.to)}`
            : "The range (none is selected)"}
        />
      </RadioButtonGroup>
      <RadioButtonGroup
        legendText="WAV, stereo, {sampleRate / 1000} kHz"
        orientation="vertical"
        bind:selected={format}
      >
        <RadioButton value="int16" labelText="16 bit" />
        <RadioButton value="int24" labelText="24 bit" />
        <RadioButton value="float32" labelText="32 bit float, every sample exact" />
      </RadioButtonGroup>
      <Checkbox
        labelText="Dither (triangular, ±1 step)"
        disabled={format === "float32"}
        bind:checked={dither}
      />
      <p class="soft">About <span class="number">{(bytes / 1e6).toFixed(1)} MB</span>.</p>
    </div>
  {/if}
  <!-- One quick file: whoever wants more of it should not look for it here. -->
  <p class="more">
    Other formats, a loudness, sections, stems, chapters, or back into a video:
    <Link href="/projects/{session.projectId}/deliver" on:click={() => (editor.dialog = null)}>Deliver</Link>
  </p>
</Modal>

<style>
  .parts {
    display: grid;
    gap: 16px;
  }

  .more {
    margin-top: 16px;
  }
</style>
