<script lang="ts">
  import { Modal, RadioButton, RadioButtonGroup, TextInput } from "carbon-components-svelte";
  import { parseTime } from "$lib/core/units/time";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, selection, jobs, sampleRate } = editor;
  let handles = $state("2 s");
  let tail = $state("auto");
  let tailText = $state("4 s");

  const clip = $derived(selection.clip);
  const handleSeconds = $derived(parseTime(handles));
  const tailSeconds = $derived(parseTime(tailText));
  const badHandles = $derived(handleSeconds === undefined || handleSeconds < 0 || handleSeconds > 3600);
  const badTail = $derived(
    tail === "fixed" && (tailSeconds === undefined || tailSeconds < 0 || tailSeconds > 60)
  );
  const have = $derived.by(() => {
    if (!clip || handleSeconds === undefined) return "";
    const total = session.document.get("recordings", clip.recordingId)?.frames ?? 0;
    const before = Math.min(handleSeconds, clip.offset / sampleRate);
    const after = Math.min(handleSeconds, Math.max(0, total - clip.offset - clip.length) / sampleRate);
    return `The recording has ${before.toFixed(2)} s before the clip and ${after.toFixed(2)} s after it for handles.`;
  });

  function go(): void {
    if (!clip || badHandles || badTail) return;
    editor.dialog = null;
    jobs.begin({
      kind: "render",
      clipId: clip.id,
      handleSeconds: handleSeconds ?? 2,
      tail: tail === "auto" ? "auto" : (tailSeconds ?? 4)
    });
  }
</script>

<Modal
  open
  size="sm"
  modalHeading={`Render ${clip?.name ?? ""}`}
  primaryButtonText="Render"
  secondaryButtonText="Cancel"
  primaryButtonDisabled={badHandles || badTail}
  selectorPrimaryFocus="input"
  on:submit={go}
  on:close={() => (editor.dialog = null)}
  on:click:button--secondary={() => (editor.dialog = null)}
>
  <p>
    Makes a new recording from the clip's chain. The steps stay with the clip, and Restore takes the render
    away again. Inside the clip it sounds exactly as now.
  </p>
  <TextInput
    size="sm"
    labelText="Handles on both sides"
    helperText={have}
    bind:value={handles}
    invalid={badHandles}
    invalidText="A time such as 2 s or 500 ms."
  />
  <RadioButtonGroup legendText="Tail after the end" orientation="vertical" bind:selected={tail}>
    <RadioButton value="auto" labelText="Measured: until it has died away (-90 dBFS)" />
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
</Modal>

<style>
  p {
    margin-bottom: 14px;
  }
</style>
