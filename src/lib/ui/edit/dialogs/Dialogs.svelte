<!-- The one dialog that is open. -->
<script lang="ts">
  import { recordingsOf } from "$lib/core/effects/registry";
  import { recordingsByName } from "$lib/core/session/lookup";
  import { newSection } from "$lib/core/session/make";
  import { newId } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import ActionsDialog from "./ActionsDialog.svelte";
  import ClipsDialog from "./ClipsDialog.svelte";
  import ExportDialog from "./ExportDialog.svelte";
  import MeasureDialog from "./MeasureDialog.svelte";
  import NameDialog from "./NameDialog.svelte";
  import HistoryQuestion from "./HistoryQuestion.svelte";
  import RenderDialog from "./RenderDialog.svelte";
  import ShortcutsDialog from "./ShortcutsDialog.svelte";

  const editor = useEditor();
  const { session, selection, presets } = editor;
  const close = () => (editor.dialog = null);

  function savePreset(name: string, notes: string): Promise<string | undefined> {
    const { steps } = selection.subject;
    const wanted = new Set(steps.flatMap(recordingsOf));
    const recordings = recordingsByName(session.document).filter((r) => wanted.has(r.id));
    return presets.save(name, notes, steps, recordings);
  }

  function addSection(name: string): string | undefined {
    const { range } = selection;
    if (!range) return "Select a range first.";
    const section = newSection(newId(), name, range.from, range.to - range.from);
    session.run({ type: "section.add", section });
    return undefined;
  }
</script>

<!-- Escape closes, wherever the focus has gone (what had it may be replaced when work ends). -->
<svelte:window onkeydown={(event) => event.key === "Escape" && editor.dialog !== null && close()} />

<!-- Carbon's dialogs have headings of the third level: the second stands before them. -->
<h2 class="visually-hidden">Dialog</h2>
{#if session.question}<HistoryQuestion question={session.question} />{/if}
{#if editor.dialog === "render"}<RenderDialog />
{:else if editor.dialog === "export"}<ExportDialog />
{:else if editor.dialog === "measure"}<MeasureDialog />
{:else if editor.dialog === "clips"}<ClipsDialog />
{:else if editor.dialog === "actions"}<ActionsDialog />
{:else if editor.dialog === "shortcuts"}<ShortcutsDialog />
{:else if editor.dialog === "preset"}
  <NameDialog
    heading="Save the chain as a preset"
    label="Name"
    button="Save"
    notesLabel="Notes (what it is for)"
    value={selection.subject.name}
    submit={savePreset}
    {close}
  />
{:else if editor.dialog === "section"}
  <NameDialog heading="Name the range as a section" label="Name" button="Add" submit={addSection} {close} />
{/if}
