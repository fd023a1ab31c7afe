// Fades and crossfades.
import { setLine, withPoint } from "../gainLines";
import { crossfadeJoins, joinsOfSelection, removeCrossfades } from "../crossfading";
import { fadeToPlayhead, fadeToRange, playheadWithin, removeFades } from "../shaping";
import { later, type Action } from "./action";
import { fadeableRecording } from "../recordingFades";
import { always, withClip, withTargets, withTrack } from "./when";

export const fades: readonly Action[] = [
  {
    id: "fadeInHere",
    name: "Fade in to the playhead",
    keys: "i",
    enabled: playheadWithin,
    run: (e) => fadeToPlayhead(e, "in")
  },
  {
    id: "fadeOutHere",
    name: "Fade out from the playhead",
    keys: "o",
    enabled: playheadWithin,
    run: (e) => fadeToPlayhead(e, "out")
  },
  {
    id: "fadeRange",
    name: "Fade to the range",
    keys: "f",
    enabled: (e) => e.selection.range !== null && withTargets(e),
    run: fadeToRange
  },
  { id: "fadesNone", name: "Remove the fades", keys: "Shift+f", enabled: withTargets, run: removeFades },
  {
    id: "fadeEditor",
    name: "Edit the fades…",
    keys: "Shift+e",
    enabled: (e) => withClip(e) || e.panel === "fades",
    run: (e) => (e.panel = e.panel === "fades" ? null : "fades")
  },
  {
    id: "lineEditor",
    name: "Type the points of a line…",
    keys: "Alt+l",
    enabled: (e) => withClip(e) || withTrack(e) || e.panel === "lines",
    run: (e) => (e.panel = e.panel === "lines" ? null : "lines")
  },
  {
    id: "recordingFade",
    name: "Fade the recording here, for all its clips…",
    enabled: (e) => fadeableRecording(e) !== undefined,
    run: (e) => (e.dialog = "recordingFade")
  },
  {
    id: "gainLine",
    name: "Show the gain line of clips, or not",
    keys: "l",
    enabled: always,
    run: (e) => (e.layout.clipLines = !e.layout.clipLines)
  },
  {
    id: "gainPoint",
    name: "Add a point to the gain line at the playhead",
    keys: "Shift+l",
    enabled: playheadWithin,
    run: (e) => {
      const { clip } = e.selection;
      if (!clip) return;
      const owner = { kind: "clip" as const, clip };
      const at = Math.round(e.transport.position) - clip.start + clip.offset;
      e.layout.clipLines = true;
      e.session.run(setLine(owner, withPoint(owner, at)));
    }
  },
  {
    id: "gainLineNone",
    name: "Remove the gain line of the selected clips",
    enabled: (e) => e.selection.targets.some(({ clip }) => clip.line),
    run: (e) =>
      e.session.run({
        type: "clip.set",
        clipIds: e.selection.targets.filter(({ clip }) => clip.line).map(({ clip }) => clip.id),
        line: null
      })
  },
  {
    id: "crossfade",
    name: "Crossfade at the cuts",
    keys: "c",
    enabled: (e) => joinsOfSelection(e).length > 0,
    run: (e) => later(crossfadeJoins(e))
  },
  {
    id: "crossfadeNone",
    name: "Remove the crossfades",
    keys: "Shift+c",
    enabled: (e) => joinsOfSelection(e).some((join) => join.overlap > 0),
    run: removeCrossfades
  }
];
