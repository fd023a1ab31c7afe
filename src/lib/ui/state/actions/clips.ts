// Clips: cutting, copying, taking away, moving by keys.
import { hasOriginalTime, placeAtOriginalTime } from "../fromFiles";
import {
  canSplit,
  chooseAfterPlayhead,
  copyTargets,
  cutsSomething,
  group,
  isolate,
  muteTargets,
  nudge,
  paste,
  removeTargets,
  repeat,
  slip,
  splitAtPlayhead,
  splitAtRange
} from "../arranging";
import { playheadWithin, trimToPlayhead } from "../shaping";
import { clickToRemove, removeClick } from "../clickRemoval";
import { later, type Action } from "./action";
import { always, withClip, withTargets } from "./when";

export const clips: readonly Action[] = [
  {
    id: "originalTime",
    name: "Place at the original time",
    enabled: hasOriginalTime,
    run: placeAtOriginalTime
  },
  {
    id: "split",
    name: "Split at the playhead",
    keys: "x",
    enabled: canSplit,
    run: (e) => later(splitAtPlayhead(e))
  },
  {
    id: "splitRange",
    name: "Split at both ends of the range",
    keys: "Shift+x",
    enabled: cutsSomething,
    run: splitAtRange
  },
  {
    id: "isolate",
    name: "Make the range a clip of its own",
    enabled: cutsSomething,
    run: isolate
  },
  {
    id: "beginHere",
    name: "Clip begins at the playhead",
    keys: "[",
    enabled: playheadWithin,
    run: (e) => trimToPlayhead(e, "left")
  },
  {
    id: "endHere",
    name: "Clip ends at the playhead",
    keys: "]",
    enabled: playheadWithin,
    run: (e) => trimToPlayhead(e, "right")
  },
  { id: "copy", name: "Copy", keys: "$mod+c", enabled: withTargets, run: copyTargets },
  {
    id: "cut",
    name: "Cut",
    keys: "$mod+x",
    enabled: withTargets,
    run: (e) => {
      copyTargets(e);
      removeTargets(e, false);
    }
  },
  {
    id: "paste",
    name: "Paste at the playhead",
    keys: "$mod+v",
    enabled: (e) => e.clipboard !== null,
    run: paste
  },
  { id: "duplicate", name: "Duplicate", keys: "d", enabled: withTargets, run: (e) => repeat(e, 1) },
  {
    id: "repeat",
    name: "Repeat…",
    keys: "Shift+d",
    enabled: withTargets,
    run: (e) => (e.dialog = "repeat")
  },
  {
    id: "remove",
    name: "Remove",
    keys: "Delete",
    enabled: withTargets,
    run: (e) => removeTargets(e, false)
  },
  {
    id: "removeClosing",
    name: "Remove and close the gap",
    keys: "Shift+Delete",
    enabled: withTargets,
    run: (e) => removeTargets(e, true)
  },
  {
    id: "removeClick",
    name: "Take the selected click out",
    keys: "Shift+r",
    enabled: (e) => clickToRemove(e) !== undefined,
    run: (e) => later(removeClick(e))
  },
  { id: "mute", name: "Mute or unmute", keys: "m", enabled: withTargets, run: muteTargets },
  {
    id: "group",
    name: "Group the selected clips",
    keys: "g",
    enabled: (e) => e.selection.clipIds.length > 1,
    run: (e) => group(e, true)
  },
  {
    id: "ungroup",
    name: "Ungroup the selected clips",
    keys: "Shift+g",
    enabled: (e) => Boolean(e.selection.clip?.group),
    run: (e) => group(e, false)
  },
  {
    id: "nudgeLeft",
    name: "Nudge to the left",
    keys: "Alt+ArrowLeft",
    enabled: withClip,
    run: (e) => nudge(e, -1)
  },
  {
    id: "nudgeRight",
    name: "Nudge to the right",
    keys: "Alt+ArrowRight",
    enabled: withClip,
    run: (e) => nudge(e, 1)
  },
  {
    id: "slipLeft",
    name: "Slip the sound to the left",
    keys: "Alt+Shift+ArrowLeft",
    enabled: withClip,
    run: (e) => slip(e, 1)
  },
  {
    id: "slipRight",
    name: "Slip the sound to the right",
    keys: "Alt+Shift+ArrowRight",
    enabled: withClip,
    run: (e) => slip(e, -1)
  },
  {
    id: "chooseAll",
    name: "Select all clips",
    keys: "$mod+a",
    enabled: always,
    run: (e) => e.selection.chooseAll([...e.session.shown.values("clips")].map((clip) => clip.id))
  },
  {
    id: "chooseAfter",
    name: "Select all clips after the playhead",
    keys: "Shift+a",
    enabled: always,
    run: chooseAfterPlayhead
  },
  {
    id: "stepBack",
    name: "Select less: the range, then the clips, are let go",
    keys: "Escape",
    enabled: (e) => e.selection.range !== null || e.selection.clipIds.length > 0,
    run: (e) => e.selection.stepBack()
  },
  { id: "clipList", name: "List all clips…", enabled: always, run: (e) => (e.dialog = "clips") }
];
