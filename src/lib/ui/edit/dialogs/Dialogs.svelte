<!-- The one dialog that is open. -->
<script lang="ts">
  import { newSection } from "$lib/core/session/make";
  import { newId } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import AboutDialog from "./AboutDialog.svelte";
  import AllClipsDialog from "./AllClipsDialog.svelte";
  import CleanUpDialog from "./CleanUpDialog.svelte";
  import ClipsDialog from "./ClipsDialog.svelte";
  import DearestDialog from "./DearestDialog.svelte";
  import ExportDialog from "./ExportDialog.svelte";
  import MeasureDialog from "./MeasureDialog.svelte";
  import NameDialog from "./NameDialog.svelte";
  import HistoryQuestion from "./HistoryQuestion.svelte";
  import PasteDialog from "./PasteDialog.svelte";
  import PresetDialog from "./PresetDialog.svelte";
  import RecordingFadeDialog from "./RecordingFadeDialog.svelte";
  import RepeatDialog from "./RepeatDialog.svelte";
  import TrackDialogs from "./TrackDialogs.svelte";
  import RenderDialog from "./RenderDialog.svelte";
  import SoundTracksDialog from "./SoundTracksDialog.svelte";
  import ShortcutsDialog from "./ShortcutsDialog.svelte";
  import TakeOffDialog from "./TakeOffDialog.svelte";

  const editor = useEditor();
  const { session, selection } = editor;
  const close = () => (editor.dialog = null);

  const recording = $derived(editor.asked);

  /** Changes the recording. Returns the refusal's sentence. */
  function set(change: { name?: string; folder?: string; labels?: string[] }): string | undefined {
    if (!recording) return "The recording is no longer there.";
    if (change.labels?.some((label) => label.length > 40)) return "A label has at most 40 characters.";
    if ((change.labels?.length ?? 0) > 20) return "A recording has at most 20 labels.";
    session.run({ type: "recording.set", recordingIds: [recording.id], ...change });
    return undefined;
  }

  const rename = (name: string) => (name.length > 120 ? "A name has at most 120 characters." : set({ name }));

  function renameSection(name: string): string | undefined {
    const section = editor.askedSection;
    if (!section) return "The section is no longer there.";
    if (name.length > 120) return "A name has at most 120 characters.";
    session.run({ type: "section.set", sectionId: section.id, name });
    return undefined;
  }

  function addSection(name: string): string | undefined {
    const { range: chosen, targets } = selection;
    const range = chosen ?? {
      from: Math.min(...targets.map((target) => target.from)),
      to: Math.max(...targets.map((target) => target.to))
    };
    if (!(range.to > range.from)) return "Select a range first.";
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
{:else if editor.dialog === "allClips"}<AllClipsDialog />
{:else if editor.dialog === "cleanUp"}<CleanUpDialog />
{:else if editor.dialog === "dearest"}<DearestDialog />
{:else if editor.dialog === "repeat"}<RepeatDialog />
{:else if editor.dialog === "recordingFade"}<RecordingFadeDialog />
{:else if editor.dialog === "trackRole" || editor.dialog === "trackRemove"}<TrackDialogs />
{:else if editor.dialog === "sectionName"}
  <NameDialog
    heading="Rename the section"
    label="Name"
    button="Rename"
    value={editor.askedSection?.name}
    submit={renameSection}
    {close}
  />
{:else if editor.dialog === "shortcuts"}<ShortcutsDialog />
{:else if editor.dialog === "preset"}<PresetDialog />
{:else if editor.dialog === "paste"}<PasteDialog />
{:else if editor.dialog === "takeOff"}<TakeOffDialog />
{:else if editor.dialog === "soundTracks"}<SoundTracksDialog />
{:else if editor.dialog === "recordingAbout"}<AboutDialog />
{:else if editor.dialog === "recordingName"}
  <NameDialog
    heading="Rename the recording"
    label="Name"
    button="Rename"
    value={recording?.name}
    submit={rename}
    {close}
  />
{:else if editor.dialog === "recordingFolder"}
  <NameDialog
    heading="Put the recording into a folder"
    label="Folder, as Day 1/Interviews; empty for the top of the shelf"
    button="Put"
    value={recording?.folder ?? ""}
    mayBeEmpty
    submit={(folder) =>
      set({
        folder: folder
          .split("/")
          .map((part) => part.trim())
          .filter(Boolean)
          .join("/")
      })}
    {close}
  />
{:else if editor.dialog === "recordingLabels"}
  <NameDialog
    heading="Label the recording"
    label="Labels, separated by commas"
    button="Label"
    value={(recording?.labels ?? []).join(", ")}
    mayBeEmpty
    submit={(text) =>
      set({
        labels: text
          .split(",")
          .map((word) => word.trim())
          .filter(Boolean)
      })}
    {close}
  />
{:else if editor.dialog === "section"}
  <NameDialog heading="Name the range as a section" label="Name" button="Add" submit={addSection} {close} />
{/if}
