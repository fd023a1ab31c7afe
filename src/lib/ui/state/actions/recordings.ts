// Recordings: the one that a menu was opened on, else that of the selection.
import type { DialogName, Editor } from "../editor.svelte";
import { addClip } from "../editing";
import { addAtOriginalTime, markedClip, sectionsFromMarkers } from "../fromFiles";
import { recordingOf } from "../target";
import type { Action } from "./action";
import { always } from "./when";

/** Opens a dialog about the recording: the menu's target is gone once it is open. */
function ask(editor: Editor, dialog: DialogName): void {
  editor.askAbout(recordingOf(editor), dialog);
}

const withRecording = (e: Editor) => recordingOf(e) !== undefined;

export const recordings: readonly Action[] = [
  {
    id: "recordingAdd",
    name: "Add the recording at the playhead",
    enabled: withRecording,
    run: (e) => {
      const recording = recordingOf(e);
      if (recording) addClip(e, recording);
    }
  },
  {
    id: "recordingChain",
    name: "Put the recording on the bench",
    enabled: withRecording,
    run: (e) => {
      const recording = recordingOf(e);
      if (recording) e.selection.chooseOwner({ table: "recordings", id: recording.id });
    }
  },
  {
    id: "recordingClips",
    name: "Select all clips of the recording",
    enabled: withRecording,
    run: (e) => {
      const recording = recordingOf(e);
      if (!recording) return;
      const all = [...e.session.shown.values("clips")];
      e.selection.chooseAll(
        all.filter((clip) => clip.content.recordingId === recording.id).map((clip) => clip.id)
      );
    }
  },
  {
    id: "recordingSections",
    name: "Make sections of the recording's markers",
    enabled: (e) => markedClip(e) !== undefined,
    run: sectionsFromMarkers
  },
  {
    id: "recordingOriginal",
    name: "Add the recording at its original time",
    enabled: (e) => (recordingOf(e)?.about?.origin ?? null) !== null,
    run: addAtOriginalTime
  },
  {
    id: "recordingTracks",
    name: "Take another sound track of the file…",
    enabled: (e) => (recordingOf(e)?.about?.sounds.length ?? 0) > 1,
    run: (e) => ask(e, "soundTracks")
  },
  {
    id: "recordingName",
    name: "Rename the recording…",
    enabled: withRecording,
    run: (e) => ask(e, "recordingName")
  },
  {
    id: "recordingFolder",
    name: "Put the recording into a folder…",
    enabled: withRecording,
    run: (e) => ask(e, "recordingFolder")
  },
  {
    id: "recordingLabels",
    name: "Label the recording…",
    enabled: withRecording,
    run: (e) => ask(e, "recordingLabels")
  },
  {
    id: "recordingAbout",
    name: "About the recording…",
    enabled: withRecording,
    run: (e) => ask(e, "recordingAbout")
  },
  {
    id: "cleanUp",
    name: "Clean up recordings that nothing uses…",
    enabled: always,
    run: (e) => (e.dialog = "cleanUp")
  },
  {
    id: "recordingRemove",
    name: "Take the recording off the shelf",
    enabled: withRecording,
    run: (e) => {
      const recording = recordingOf(e);
      if (recording) e.session.run({ type: "recording.remove", recordingId: recording.id });
    }
  }
];
