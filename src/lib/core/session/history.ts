// The order of a project's edits, as undo and redo go through it.

/** One accepted edit: what it is called, who made it. */
export interface HistoryItem {
  readonly editId: string;
  readonly label: string;
  /** The page that made it; null: a job, or a page of the version before. */
  readonly page: string | null;
  /** The job whose result it is; null: a user's command. */
  readonly job: string | null;
}

/** What undo takes back and redo brings again, the next one last. */
export interface History {
  readonly undo: readonly HistoryItem[];
  readonly redo: readonly HistoryItem[];
}

export const NO_HISTORY: History = { undo: [], redo: [] };

/** What an accepted entry does to the history: "do" something new, or "undo" or "redo" the edit `target`. */
export interface HistoryStep extends HistoryItem {
  readonly kind: "do" | "undo" | "redo";
  readonly target: string | null;
}

/** The history after an entry. A user's new edit clears redo; a job's result does not. */
export function historyAfter(history: History, step: HistoryStep): History {
  const { undo, redo } = history;
  const { editId, label, page, job } = step;
  if (step.kind === "do") {
    const item = { editId, label, page, job };
    // It may be known already: the history that a page begins with can be newer than its document.
    const others = undo.filter((known) => known.editId !== editId);
    return { undo: [...others, item], redo: job === null ? [] : redo };
  }
  const [from, to] = step.kind === "undo" ? [undo, redo] : [redo, undo];
  const moved = from.find((item) => item.editId === step.target);
  if (!moved) return history;
  const left = from.filter((item) => item !== moved);
  const right = [...to, moved];
  return step.kind === "undo" ? { undo: left, redo: right } : { undo: right, redo: left };
}
