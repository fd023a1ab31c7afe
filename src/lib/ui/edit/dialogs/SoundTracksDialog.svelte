<!-- Another sound track of the file that a recording came from becomes a recording of its own. -->
<script lang="ts">
  import { Modal, RadioButton, RadioButtonGroup } from "carbon-components-svelte";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const recording = editor.asked;
  const about = recording?.about;
  const others = (about?.sounds ?? []).filter(({ stream }) => stream !== about?.stream);
  let chosen = $state(String(others[0]?.stream ?? ""));
  const close = () => (editor.dialog = null);

  function go(): void {
    if (recording && chosen !== "")
      editor.jobs.begin({ kind: "soundTrack", recordingId: recording.id, stream: Number(chosen) });
    close();
  }
</script>

<Modal
  open
  size="xs"
  modalHeading={`Sound tracks of ${about?.file ?? "the file"}`}
  primaryButtonText="Take it"
  secondaryButtonText="Cancel"
  on:submit={go}
  on:close={close}
  on:click:button--secondary={close}
>
  <RadioButtonGroup legendText="Which becomes a recording" orientation="vertical" bind:selected={chosen}>
    {#each others as { stream, name } (stream)}
      <RadioButton value={String(stream)} labelText={name} />
    {/each}
  </RadioButtonGroup>
</Modal>
