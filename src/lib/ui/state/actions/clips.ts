// Clips.
import { hasOriginalTime, placeAtOriginalTime } from "../fromFiles";
import type { Action } from "./action";
import { always, withClip } from "./when";
import { playheadWithin, trimToPlayhead } from "../shaping";
import { duplicate, removeSelected, splitAtPlayhead } from "../editing";

export const clips: readonly Action[] = [
  {
    id: "originalTime",
    name: "Place at the original time",
    enabled: hasOriginalTime,
    run: placeAtOriginalTime
  },
  { id: "split", name: "Split the clip at the playhead", keys: "x", enabled: withClip, run: splitAtPlayhead },
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
  { id: "duplicate", name: "Duplicate the clip", keys: "d", enabled: withClip, run: duplicate },
  { id: "remove", name: "Remove the selected clips", keys: "Delete", enabled: withClip, run: removeSelected },
  {
    id: "mute",
    name: "Mute or unmute the selected clips",
    keys: "m",
    enabled: withClip,
    run: (e) =>
      e.session.run({ type: "clip.set", clipIds: [...e.selection.clipIds], muted: !e.selection.clip?.muted })
  },
  { id: "clipList", name: "List all clips…", enabled: always, run: (e) => (e.dialog = "clips") }
];
