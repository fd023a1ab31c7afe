// The join check, and joins that are looked for by ear of the machine.
import { findBestPlace, joinsOfSelection, moveJoins } from "../crossfading";
import { later, type Action } from "./action";
import { always } from "./when";

const found = (e: Parameters<Action["enabled"]>[0]) => (e.joinCheck.found?.length ?? 0) > 0;

export const joins: readonly Action[] = [
  {
    id: "joinCheck",
    name: "Check all joins for pops…",
    keys: "p",
    enabled: always,
    run: (e) => {
      e.joinsOpen = true;
      later(e.joinCheck.run());
    }
  },
  { id: "popNext", name: "Next pop", keys: "j", enabled: found, run: (e) => e.joinCheck.step(1) },
  { id: "popBefore", name: "Pop before", keys: "Shift+j", enabled: found, run: (e) => e.joinCheck.step(-1) },
  { id: "popHear", name: "Hear the pop", keys: "h", enabled: found, run: (e) => e.joinCheck.hear() },
  {
    id: "popMend",
    name: "Mend the pop",
    keys: "k",
    enabled: found,
    run: (e) => {
      const { current } = e.joinCheck;
      if (current) later(e.joinCheck.mend([current]));
    }
  },
  {
    id: "popMendAll",
    name: "Mend all pops",
    enabled: found,
    run: (e) => later(e.joinCheck.mend(e.joinCheck.found ?? []))
  },
  {
    id: "popZero",
    name: "Move the cut to a zero crossing",
    enabled: found,
    run: (e) => later(e.joinCheck.moveToZero())
  },
  {
    id: "joinLeft",
    name: "Move the join to the left",
    keys: "Alt+,",
    enabled: (e) => joinsOfSelection(e).length > 0,
    run: (e) => moveJoins(e, -1)
  },
  {
    id: "joinRight",
    name: "Move the join to the right",
    keys: "Alt+.",
    enabled: (e) => joinsOfSelection(e).length > 0,
    run: (e) => moveJoins(e, 1)
  },
  {
    id: "bestPlace",
    name: "Find the best place for the join",
    keys: "Shift+b",
    enabled: (e) => joinsOfSelection(e).length > 0,
    run: (e) => later(findBestPlace(e))
  }
];
