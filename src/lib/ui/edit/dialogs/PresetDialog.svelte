<!-- Saves the chain on the bench as a preset. Of a noise reduction the maker says whether it carries its profile, asks for one, or learns anew. -->
<script lang="ts">
  import {
    Checkbox,
    Modal,
    RadioButton,
    RadioButtonGroup,
    TextArea,
    TextInput
  } from "carbon-components-svelte";
  import { recordingsOf } from "$lib/core/effects/registry";
  import { recordingsByName } from "$lib/core/session/lookup";
  import type { Step } from "$lib/core/session/schema";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";

  const editor = useEditor();
  const { session, selection, presets } = editor;
  type Way = "carried" | "ask" | "learn";
  // As they were when the dialog opened.
  const steps = selection.rows.map(({ step }) => step);
  const carrying = steps.filter(({ params }) => params.source === "carried" && params.profile);
  let name = $state(selection.subject.name);
  let notes = $state("");
  let tags = $state("");
  let over = $state(false);
  let fault = $state("");
  let way = $state<Way>("carried");
  /** The saved one of that name. */
  const known = $derived(presets.saved.find((preset) => preset.name === name.trim()));
  /** What is said of the one that is saved over stays, unless something else is said. */
  function replace(wanted: boolean): void {
    over = wanted;
    // What was refused without it is answered by this.
    if (wanted) fault = "";
    if (!wanted || !known) return;
    notes ||= known.notes;
    tags ||= known.tags.join(", ");
  }

  const close = () => (editor.dialog = null);

  function saved(step: Step): Step {
    if (way === "carried" || !carrying.includes(step)) return step;
    return { ...step, params: { ...step.params, source: way, profile: "", profileFrom: "" } };
  }

  async function go(): Promise<void> {
    if (name.trim() === "") {
      fault = "A name is needed.";
      return;
    }
    const kept = steps.map(saved);
    const wanted = new Set(kept.flatMap(recordingsOf));
    const recordings = recordingsByName(session.document).filter((r) => wanted.has(r.id));
    const words = tags
      .split(",")
      .map((word) => word.trim())
      .filter(Boolean);
    const text = { name: name.trim(), notes, tags: [...new Set(words)] };
    fault = (await presets.save(text, kept, recordings, over && known !== undefined)) ?? "";
    if (!fault) close();
  }

  const submit = () => {
    go().catch((error: unknown) => notices.fault(error));
  };
</script>

<Modal
  open
  size="xs"
  modalHeading="Save the chain as a preset"
  primaryButtonText="Save"
  secondaryButtonText="Cancel"
  selectorPrimaryFocus="input"
  shouldSubmitOnEnter={false}
  on:submit={submit}
  on:close={close}
  on:click:button--secondary={close}
>
  <TextInput
    size="sm"
    labelText="Name"
    bind:value={name}
    invalid={fault !== ""}
    invalidText={fault}
    on:keydown={(event) => event.key === "Enter" && submit()}
  />
  {#if known}<Checkbox
      labelText="Save over the preset of that name"
      checked={over}
      on:check={({ detail }) => replace(detail)}
    />{/if}
  <TextArea labelText="Notes (what it is for)" rows={2} bind:value={notes} />
  <TextInput size="sm" labelText="Tags, separated by commas" bind:value={tags} />
  {#if carrying.length > 0}
    <RadioButtonGroup orientation="vertical" legendText="Its noise profile" bind:selected={way}>
      <RadioButton
        value="carried"
        labelText="goes along: from {String(carrying[0].params.profileFrom || 'a place that was not noted')}"
      />
      <RadioButton value="ask" labelText="is asked for where the preset is applied" />
      <RadioButton value="learn" labelText="is learnt anew from each recording" />
    </RadioButtonGroup>
  {/if}
</Modal>
