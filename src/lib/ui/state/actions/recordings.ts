// Recordings: the one that a menu was opened on, else that of the selection.
import type { Editor } from "../editor.svelte";
import { addClip } from "../editing";
import { addAtOriginalTime, markedClip, sectionsFromMarkers } from "../fromFiles";
import { recordingOf } from "../target";
import type { Action } from "./action";

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
    run: (e) => (e.dialog = "soundTracks")
  },
  {
    id: "recordingName",
    name: "Rename the recording…",
    enabled: withRecording,
    run: (e) => (e.dialog = "recordingName")
  },
  {
    id: "recordingFolder",
    name: "Put the recording into a folder…",
    enabled: withRecording,
    run: (e) => (e.dialog = "recordingFolder")
  },
  {
    id: "recordingLabels",
    name: "Label the recording…",
    enabled: withRecording,
    run: (e) => (e.dialog = "recordingLabels")
  },
  {
    id: "recordingAbout",
    name: "What the recording is, and what its file says",
    enabled: withRecording,
    run: (e) => (e.dialog = "recordingAbout")
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
