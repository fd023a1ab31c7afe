// The range of time, and sections.
import type { Action } from "./action";
import { always, withClip } from "./when";
import { rangeOfSelection, setRangeEdge } from "../editing";

export const range: readonly Action[] = [
  {
    id: "rangeFrom",
    name: "Range begins at the playhead",
    keys: ",",
    enabled: always,
    run: (e) => setRangeEdge(e, "from")
  },
  {
    id: "rangeTo",
    name: "Range ends at the playhead",
    keys: ".",
    enabled: always,
    run: (e) => setRangeEdge(e, "to")
  },
  { id: "rangeClip", name: "Range over the selected clip", enabled: withClip, run: rangeOfSelection },
  {
    id: "noRange",
    name: "Remove the range",
    enabled: (e) => e.selection.range !== null,
    run: (e) => (e.selection.range = null)
  }
];
