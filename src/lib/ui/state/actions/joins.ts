// The join check, and joins that are looked for by ear of the machine.
import { findBestPlace, joinsOfSelection, moveJoins } from "../crossfading";
import { checkJoins, hearPop, mendPops, moveToZero, stepPops } from "../joinChecking";
import { later, type Action } from "./action";
import { always } from "./when";

const found = (e: Parameters<Action["enabled"]>[0]) => (e.pops.found?.length ?? 0) > 0;

export const joins: readonly Action[] = [
  {
    id: "joinCheck",
    name: "Check all joins for pops…",
    keys: "p",
    enabled: always,
    run: (e) => {
      e.pops.open = true;
      later(checkJoins(e));
    }
  },
  { id: "popNext", name: "Next pop", keys: "j", enabled: found, run: (e) => stepPops(e, 1) },
  { id: "popBefore", name: "Pop before", keys: "Shift+j", enabled: found, run: (e) => stepPops(e, -1) },
  { id: "popHear", name: "Hear the pop", keys: "h", enabled: found, run: (e) => hearPop(e) },
  {
    id: "popMend",
    name: "Mend the pop",
    keys: "k",
    enabled: found,
    run: (e) => {
      const { current } = e.pops;
      if (current) later(mendPops(e, [current]));
    }
  },
  {
    id: "popMendAll",
    name: "Mend all pops",
    enabled: found,
    run: (e) => later(mendPops(e, e.pops.found ?? []))
  },
  {
    id: "popZero",
    name: "Move the cut to a zero crossing",
    enabled: found,
    run: (e) => later(moveToZero(e))
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
