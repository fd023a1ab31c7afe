// Fades and crossfades.
import { crossfadeJoins, joinsOfSelection, removeCrossfades } from "../crossfading";
import { fadeToPlayhead, fadeToRange, playheadWithin, removeFades } from "../shaping";
import type { Action } from "./action";
import { withTargets } from "./when";

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
    id: "crossfade",
    name: "Crossfade at the cuts",
    keys: "c",
    enabled: (e) => joinsOfSelection(e).length > 0,
    run: (e) => crossfadeJoins(e)
  },
  {
    id: "crossfadeNone",
    name: "Remove the crossfades",
    keys: "Shift+c",
    enabled: (e) => joinsOfSelection(e).some((join) => join.overlap > 0),
    run: removeCrossfades
  }
];
