// A page's copy of a document: the confirmed state, and on top of it the edits that the server has not confirmed yet.
//
//   confirmed ──(entries from the server)──▶ confirmed'
//       └─ outbox: edit 1, edit 2, …  ──────▶ shown
//
// An edit leaves the outbox only when the server says that it has it, or that it refuses it.
import { invert, rebased, type Change } from "./changes";
import { applyCommand, applyChanges, type Command } from "./commands";
import { alike } from "./equal";
import type { Document } from "./document";
import { historyAfter, type History, type HistoryItem, type HistoryStep } from "./history";
import { CommandRefused } from "./refused";

/** One accepted edit as the server tells of it: the project's log, in order of revisions. */
export interface Entry extends HistoryStep {
  /** The project's revision after it. */
  readonly revision: number;
  readonly changes: readonly Change[];
}

/** What a page asks for: a command, or an edit by its id to be taken back or brought again. */
export type Wish = { readonly command: Command } | { readonly undo: string } | { readonly redo: string };

/** An edit on its way. `base`: the revision that its maker saw. */
export interface Outgoing {
  readonly editId: string;
  readonly base: number;
  readonly wish: Wish;
}

interface Pending extends Outgoing {
  readonly label: string;
  /** What it does to the state below it; null while that is not known. */
  changes: readonly Change[] | null;
}

export interface ReplicaState {
  readonly revision: number;
  readonly document: Document;
  readonly history: History;
}

const REMEMBERED = 500;

export class Replica {
  #confirmed: Document;
  #revision: number;
  #base: History;
  #outbox: Pending[] = [];
  #shown: Document;
  #history: History;
  /** Changes of accepted edits that this page has seen, so that undo shows at once. */
  readonly #known = new Map<string, readonly Change[]>();

  /** @param page id of this page: its own edits do not count as others' */
  constructor(
    state: ReplicaState,
    private readonly page: string
  ) {
    this.#confirmed = this.#shown = state.document;
    this.#revision = state.revision;
    this.#base = this.#history = state.history;
  }

  /** Confirmed state with the outbox on top. */
  get shown(): Document {
    return this.#shown;
  }

  get confirmed(): Document {
    return this.#confirmed;
  }

  get revision(): number {
    return this.#revision;
  }

  /** History with the outbox on top. */
  get history(): History {
    return this.#history;
  }

  get outbox(): readonly Outgoing[] {
    return this.#outbox;
  }

  /**
   * Makes a command on what is shown. Returns whether it changes anything: if not, it does not go into the outbox.
   * @throws CommandRefused
   */
  make(editId: string, command: Command): boolean {
    const applied = applyCommand(this.#shown, command);
    if (applied.changes.length === 0) return false;
    this.#push({ editId, wish: { command }, label: applied.label, changes: applied.changes });
    this.#shown = applied.document;
    return true;
  }

  /** Takes the edit back that is next, or brings the next again. Undefined when there is none. */
  step(editId: string, direction: "undo" | "redo"): HistoryItem | undefined {
    const item = this.#history[direction].at(-1);
    if (!item) return undefined;
    const wish = direction === "undo" ? { undo: item.editId } : { redo: item.editId };
    const changes = this.#effect(this.#shown, wish);
    this.#push({ editId, wish, label: item.label, changes });
    if (changes) this.#shown = this.#shown.with(changes);
    return item;
  }

  #push(edit: Omit<Pending, "base">): void {
    this.#outbox = [...this.#outbox, { ...edit, base: this.#revision }];
    this.#history = historyAfter(this.#history, this.#stepOf(edit));
  }

  #stepOf({ editId, wish, label }: Pick<Pending, "editId" | "wish" | "label">): HistoryStep {
    const who = { editId, label, page: this.page, job: null };
    if ("undo" in wish) return { ...who, kind: "undo", target: wish.undo };
    if ("redo" in wish) return { ...who, kind: "redo", target: wish.redo };
    return { ...who, kind: "do", target: null };
  }

  /** What a wish does to a state; null when it cannot be told here, or cannot be done there. */
  #effect(doc: Document, wish: Wish): readonly Change[] | null {
    try {
      if ("command" in wish) return applyCommand(doc, wish.command).changes;
      const undo = "undo" in wish;
      const changes = this.#changesOf(undo ? wish.undo : wish.redo);
      if (!changes) return null;
      const moved = rebased(doc, undo ? invert(changes) : changes);
      applyChanges(doc, moved);
      return moved;
    } catch (error) {
      if (error instanceof CommandRefused) return null;
      throw error;
    }
  }

  #changesOf(editId: string): readonly Change[] | undefined {
    return this.#outbox.find((e) => e.editId === editId)?.changes ?? this.#known.get(editId);
  }

  /**
   * Takes entries of the server's log in. Entries that are known already are passed over; own edits among them leave the outbox.
   * @throws RangeError when entries are missing between what is known and what comes
   */
  take(entries: readonly Entry[]): void {
    let asForetold = true;
    for (const entry of entries) {
      if (entry.revision <= this.#revision) continue;
      if (entry.revision !== this.#revision + 1)
        throw new RangeError(`Revision ${entry.revision} came after ${this.#revision}.`);
      const [first] = this.#outbox;
      const foretold =
        first?.editId === entry.editId && first.changes !== null && alike(first.changes, entry.changes);
      asForetold = asForetold && foretold;
      this.#confirm(entry);
    }
    if (!asForetold) {
      this.#rebase();
      return;
    }
    this.#rebaseHistory();
    // What is shown stays the same object, and its entities with it: nothing that follows it has to do its work again.
    if (this.#outbox.length === 0) this.#confirmed = this.#shown;
  }

  #confirm(entry: Entry): void {
    this.#confirmed = this.#confirmed.with(entry.changes);
    this.#revision = entry.revision;
    this.#base = historyAfter(this.#base, entry);
    this.#outbox = this.#outbox.filter((e) => e.editId !== entry.editId);
    if (entry.kind === "do") this.#known.set(entry.editId, entry.changes);
    else if (entry.kind === "redo" && entry.target) this.#known.set(entry.target, entry.changes);
    if (this.#known.size > REMEMBERED) {
      const [oldest] = this.#known.keys();
      if (oldest !== undefined) this.#known.delete(oldest);
    }
  }

  /** The server refuses an edit: it goes, everything after it stays. */
  refuse(editId: string): void {
    this.#outbox = this.#outbox.filter((e) => e.editId !== editId);
    this.#rebase();
  }

  /** Goes on from a whole state, when entries are missing. The outbox stays. */
  reset(state: ReplicaState): void {
    if (state.revision < this.#revision) return;
    this.#confirmed = state.document;
    this.#revision = state.revision;
    this.#base = state.history;
    this.#rebase();
  }

  #rebaseHistory(): void {
    this.#history = this.#outbox.reduce((h, edit) => historyAfter(h, this.#stepOf(edit)), this.#base);
  }

  #rebase(): void {
    let doc = this.#confirmed;
    for (const edit of this.#outbox) {
      edit.changes = this.#effect(doc, edit.wish);
      if (edit.changes) doc = doc.with(edit.changes);
    }
    this.#shown = doc;
    this.#rebaseHistory();
  }
}
