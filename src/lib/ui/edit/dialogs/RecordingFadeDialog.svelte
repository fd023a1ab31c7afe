<!-- Names the clips that will hear a fade of their recording, before it is made. -->
<script lang="ts">
  import { Modal, Select, SelectItem } from "carbon-components-svelte";
  import { FADE_NAMES, PLAIN_CURVES } from "$lib/core/audio/fades";
  import { lengthText, placeText } from "$lib/core/units/timeFormat";
  import { useEditor } from "../../state/editor.svelte";
  import { fadeableRecording, fadeRecording } from "../../state/recordingFades";

  const editor = useEditor();
  const { preferences, sampleRate } = editor;
  // As it was when the dialog opened.
  const fade = fadeableRecording(editor);
  let edge = $state<"in" | "out">("in");
  let curve = $state("smooth");
  const close = () => (editor.dialog = null);
  const place = (frame: number) => placeText(frame, sampleRate, preferences.time);

  function go(): void {
    if (fade) fadeRecording(editor, fade, edge, curve);
    close();
  }
</script>

{#if fade}
  <Modal
    open
    size="sm"
    modalHeading="Fade the recording {fade.recording.name}"
    primaryButtonText="Fade the recording"
    secondaryButtonText="Cancel"
    on:submit={go}
    on:close={close}
    on:click:button--secondary={close}
  >
    <p>
      From {place(fade.from)} to {place(fade.to)} of the recording,
      {lengthText(fade.to - fade.from, sampleRate, preferences.time)} long. It becomes a step of the recording's
      chain: it can be changed, switched off and removed there at any time.
    </p>
    <p>
      {fade.clips.length === 1 ? "One clip shows" : `${fade.clips.length} clips show`} this recording and will hear
      it:
      <strong>{fade.clips.map((clip) => clip.name).join(", ")}</strong>.
    </p>
    <div class="fields">
      <Select size="sm" labelText="Direction" bind:selected={edge}>
        <SelectItem value="in" text="in" /><SelectItem value="out" text="out" />
      </Select>
      <Select size="sm" labelText="Curve" bind:selected={curve}>
        {#each PLAIN_CURVES as one (one)}<SelectItem value={one} text={FADE_NAMES[one]} />{/each}
      </Select>
    </div>
  </Modal>
{/if}

<style>
  p {
    margin-bottom: 10px;
    font-size: 13px;
  }

  .fields {
    display: flex;
    gap: 12px;
  }
</style>
