// Undo and redo.
import type { Action } from "./action";

export const history: readonly Action[] = [
  {
    id: "undo",
    name: "Undo",
    keys: "$mod+z",
    anywhere: true,
    enabled: (e) => e.session.undoName !== null,
    run: (e) => e.session.undo()
  },
  {
    id: "redo",
    name: "Redo",
    keys: "$mod+Shift+z",
    anywhere: true,
    enabled: (e) => e.session.redoName !== null,
    run: (e) => e.session.redo()
  }
];
