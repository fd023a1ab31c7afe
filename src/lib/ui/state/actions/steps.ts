// The chosen step of what is on the bench, in all selected clips.
import { spansDiffer } from "$lib/core/session/together";
import type { Editor } from "../editor.svelte";
import {
  moveRow,
  removeAll,
  removeRows,
  resetRow,
  switchAll,
  switchRows,
  treatAll,
  treatRange
} from "../steps";
import type { Action } from "./action";
import { chained, withRow } from "./when";

/** Does something with the chosen row, where there is one. */
const withChosen =
  (act: (editor: Editor, row: NonNullable<Editor["selection"]["row"]>) => unknown) => (editor: Editor) => {
    const { row } = editor.selection;
    if (row) act(editor, row);
  };

/** Moves the chosen row by one place. */
const move = (by: 1 | -1) => withChosen((e, row) => moveRow(e, row, e.selection.rows.indexOf(row) + by));

export const steps: readonly Action[] = [
  {
    id: "stepOn",
    name: "Switch the chosen steps on or off",
    enabled: withRow,
    run: (e) => switchRows(e, e.selection.chosenRows)
  },
  {
    id: "stepsOn",
    name: "Switch all steps off, or on again",
    keys: "Alt+b",
    enabled: chained,
    run: switchAll
  },
  { id: "stepUp", name: "Move the chosen step up", enabled: withRow, run: move(-1) },
  { id: "stepDown", name: "Move the chosen step down", enabled: withRow, run: move(1) },
  {
    id: "stepDefault",
    name: "Set the chosen step to its default",
    enabled: withRow,
    run: withChosen(resetRow)
  },
  {
    id: "stepReplace",
    name: "Replace the chosen step by another effect…",
    enabled: withRow,
    run: (e) => (e.replacing = true)
  },
  {
    id: "spanRange",
    name: "The chosen step treats the range only",
    enabled: (e) => withRow(e) && e.selection.range !== null,
    run: withChosen(treatRange)
  },
  {
    id: "spanWhole",
    name: "The chosen step treats all of the sound",
    enabled: (e) => {
      const { row } = e.selection;
      return row !== undefined && (row.step.span !== null || spansDiffer(row));
    },
    run: withChosen(treatAll)
  },
  {
    id: "stepRemove",
    name: "Remove the chosen steps",
    enabled: withRow,
    run: (e) => removeRows(e, e.selection.chosenRows)
  },
  { id: "clearChain", name: "Remove all steps of what is on the bench", enabled: chained, run: removeAll }
];
