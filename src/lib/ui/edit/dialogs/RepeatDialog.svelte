<!-- Repeats what is selected: so many times, or until a place. -->
<script lang="ts">
  import { Modal, TextInput } from "carbon-components-svelte";
  import { placeOf, placeText, takes } from "$lib/core/units/timeFormat";
  import { repeat, timesUntil } from "../../state/arranging";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { preferences, sampleRate } = editor;
  const MOST = 1000;
  let times = $state("2");
  let until = $state("");
  let fault = $state("");
  const close = () => (editor.dialog = null);

  const place = $derived(until.trim() === "" ? undefined : placeOf(until, sampleRate, preferences.time));
  const count = $derived(place === undefined ? Number(times) : timesUntil(editor, place));

  function go(): void {
    if (until.trim() !== "" && place === undefined) {
      fault = `It takes ${takes(preferences.time)}.`;
      return;
    }
    if (!Number.isInteger(count) || count < 1 || count > MOST) {
      fault =
        place === undefined
          ? `A whole number from 1 to ${MOST} is needed.`
          : `Until ${placeText(place, sampleRate, preferences.time)} it does not fit once.`;
      return;
    }
    repeat(editor, count);
    close();
  }
</script>

<Modal
  open
  size="xs"
  modalHeading="Repeat what is selected"
  primaryButtonText="Repeat"
  secondaryButtonText="Cancel"
  selectorPrimaryFocus="input"
  shouldSubmitOnEnter={false}
  on:submit={go}
  on:close={close}
  on:click:button--secondary={close}
>
  <div class="fields">
    <TextInput
      size="sm"
      labelText="Times"
      bind:value={times}
      disabled={until.trim() !== ""}
      on:keydown={(event) => event.key === "Enter" && go()}
    />
    <TextInput
      size="sm"
      labelText="Or until a place"
      bind:value={until}
      helperText={place === undefined ? `Takes ${takes(preferences.time)}.` : `${count} times`}
      invalid={fault !== ""}
      invalidText={fault}
      on:input={() => (fault = "")}
      on:keydown={(event) => event.key === "Enter" && go()}
    />
  </div>
</Modal>

<style>
  .fields {
    display: grid;
    gap: 12px;
  }
</style>
