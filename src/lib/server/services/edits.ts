import type { Transaction } from "sequelize";
import { invert, rebased, type Change } from "$lib/core/session/changes";
import {
  applyChanges,
  applyCommand,
  conflictWith,
  touchedBy,
  type Command
} from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import { programmeEnd } from "$lib/core/session/lookup";
import { CommandRefused } from "$lib/core/session/refused";
import type { Entry, Outgoing } from "$lib/core/session/replica";
import type { Clip } from "$lib/core/session/schema";
import type { EditsAnswer, EditsRequest, RefusedEdit } from "$lib/api/types";
import { write } from "../db/connection";
import {
  dropUndone,
  entriesAfter,
  entryOfEdit,
  insertEntries,
  editsInState,
  lastEffect,
  pruneEdits,
  setEditState,
  updateProject,
  writeChanges
} from "../db/entityRows";
import type { Models } from "../db/models";
import { noteConfirmed } from "../db/witness";
import { publish } from "../events";
import { keepOpen, openProject, type OpenProject } from "./openProjects";

/** Edits of a project that are kept; older ones can no longer be undone. */
const KEPT_EDITS = 5000;
const PRUNE_EVERY = 500;

/** Who makes an edit: a page, or a job with its result. */
interface Maker {
  readonly page: string | null;
  readonly job: string | null;
}

/** End of the last clip after changes; counted anew only when the last one went. */
function lengthAfter(before: number, document: Document, changes: readonly Change[]): number {
  let length = before;
  for (const { table, before: was, after: is } of changes) {
    if (table !== "clips") continue;
    const end = (clip: Clip | null) => (clip ? clip.start + clip.length : 0);
    if (end(was as Clip | null) === before && end(is as Clip | null) < before) return programmeEnd(document);
    length = Math.max(length, end(is as Clip | null));
  }
  return length;
}

/** Edits that are being accepted within one transaction. */
class Acceptance {
  #document: Document;
  #revision: number;
  #length: number;
  #redoable: boolean;
  readonly entries: Entry[] = [];
  readonly refused: RefusedEdit[] = [];
  /** Accepted edits of others since a revision, read once. */
  #log: readonly Entry[] | undefined;
  #logFrom = 0;

  constructor(
    private readonly projectId: string,
    private readonly start: OpenProject,
    private readonly transaction: Transaction,
    private readonly maker: Maker
  ) {
    this.#document = start.document;
    this.#revision = start.revision;
    this.#length = start.lengthFrames;
    this.#redoable = start.redoable;
  }

  async accept(edit: Outgoing): Promise<void> {
    // What stands on the newest revision cannot have been accepted before.
    const again =
      edit.base < this.start.revision &&
      (await entryOfEdit(this.projectId, edit.editId, this.transaction)) !== undefined;
    if (again || this.entries.some((e) => e.editId === edit.editId)) return;
    try {
      await this.#accept(edit);
    } catch (error) {
      if (!(error instanceof CommandRefused)) throw error;
      this.refused.push({ editId: edit.editId, error: error.message });
    }
  }

  async #accept({ editId, base, wish }: Outgoing): Promise<void> {
    if ("command" in wish) {
      await this.#needUnchanged(wish.command, base);
      const { label, changes } = applyCommand(this.#document, wish.command);
      await this.#note({ editId, kind: "do", target: null, label }, changes);
      if (this.maker.job === null && this.#redoable) {
        await dropUndone(this.projectId, this.transaction);
        this.#redoable = false;
      }
      return;
    }
    const kind = "undo" in wish ? "undo" : "redo";
    const target = "undo" in wish ? wish.undo : wish.redo;
    const [next] = await editsInState(
      this.projectId,
      kind === "undo" ? "done" : "undone",
      1,
      this.transaction
    );
    if (!next) throw new CommandRefused(`There is nothing to ${kind}.`);
    if (next.editId !== target)
      throw new CommandRefused(
        `Nothing was taken back or brought again: meanwhile "${next.label}" has become the next to ${kind}.`
      );
    const effect = await lastEffect(this.projectId, target, this.transaction);
    if (!effect) throw new CommandRefused(`"${next.label}" lies too far back to ${kind}.`);
    const changes = rebased(this.#document, kind === "undo" ? invert(effect) : effect);
    applyChanges(this.#document, changes);
    await this.#note({ editId, kind, target, label: next.label }, changes);
    const state = kind === "undo" ? "undone" : "done";
    this.#redoable = true;
    await setEditState(this.projectId, target, state, this.#revision, this.transaction);
  }

  async #needUnchanged(command: Command, base: number): Promise<void> {
    // A job makes its result's command of the newest document itself.
    if (this.maker.job !== null || base >= this.start.revision) return;
    const touched = touchedBy(command, this.#document);
    if (touched.length === 0) return;
    if (!this.#log || base < this.#logFrom) {
      this.#log = await entriesAfter(this.projectId, base, this.transaction);
      this.#logFrom = base;
    }
    const others = this.#log.filter((e) => e.revision > base && e.page !== this.maker.page);
    const conflict = conflictWith(
      touched,
      others.flatMap((e) => e.changes)
    );
    if (conflict) throw new CommandRefused(conflict);
  }

  async #note(
    entry: Pick<Entry, "editId" | "kind" | "target" | "label">,
    changes: readonly Change[]
  ): Promise<void> {
    const full: Entry = { ...entry, ...this.maker, revision: this.#revision + 1, changes };
    await insertEntries(this.projectId, [full], this.transaction);
    this.#document = this.#document.with(changes);
    this.#length = lengthAfter(this.#length, this.#document, changes);
    this.#revision = full.revision;
    this.entries.push(full);
  }

  /** Writes the entities that changed, and the project's row. */
  async store(): Promise<void> {
    if (this.entries.length === 0) return;
    const newest = new Map<string, Change>();
    for (const change of this.entries.flatMap((e) => e.changes))
      newest.set(`${change.table}/${change.id}`, change);
    await writeChanges(this.projectId, [...newest.values()], this.transaction);
    const { name, sampleRate } = this.#document;
    await updateProject(
      this.projectId,
      {
        name,
        sampleRate,
        tracks: this.#document.size("tracks"),
        lengthFrames: this.#length,
        revision: this.#revision
      },
      this.transaction
    );
    if (Math.floor(this.#revision / PRUNE_EVERY) !== Math.floor(this.start.revision / PRUNE_EVERY))
      await pruneEdits(this.projectId, this.#revision - KEPT_EDITS, this.transaction);
  }

  /** Once it is committed: the new state counts, and every page hears of it. */
  publish(): void {
    if (this.entries.length === 0) return;
    keepOpen(this.projectId, {
      document: this.#document,
      revision: this.#revision,
      lengthFrames: this.#length,
      redoable: this.#redoable
    });
    noteConfirmed(this.projectId, this.#revision);
    publish(this.projectId, { type: "entries", entries: this.entries });
  }

  get revision(): number {
    return this.#revision;
  }
}

/**
 * Applies a page's edits to the newest revision, each once, whatever became of earlier tries. Those that no longer can be are
 * refused with a sentence each; the others go on.
 * @throws UserFault 404 when there is no such project
 */
export async function edit(projectId: string, { page, known, edits }: EditsRequest): Promise<EditsAnswer> {
  const { acceptance, before } = await write(async (models, transaction) => {
    const start = await openProject(models, projectId, transaction);
    const made = new Acceptance(projectId, start, transaction, { page, job: null });
    for (const one of edits) await made.accept(one);
    await made.store();
    const missed = known < start.revision ? await entriesAfter(projectId, known, transaction) : [];
    // Those of this request are among them already: they are in the log.
    return { acceptance: made, before: missed.filter((e) => e.revision <= start.revision) };
  });
  acceptance.publish();
  return {
    revision: acceptance.revision,
    entries: [...before, ...acceptance.entries],
    refused: acceptance.refused
  };
}

/** A job's result within the transaction that ends the job. Call `publish` when that is committed. */
export async function acceptResult(
  models: Models,
  transaction: Transaction,
  projectId: string,
  jobId: string,
  command: Command
): Promise<{ readonly refused: string | undefined; publish(): void }> {
  const start = await openProject(models, projectId, transaction);
  const acceptance = new Acceptance(projectId, start, transaction, { page: null, job: jobId });
  // The base is before all others, so that a result that was accepted already is found.
  await acceptance.accept({ editId: `job-${jobId}`, base: -1, wish: { command } });
  await acceptance.store();
  return { refused: acceptance.refused[0]?.error, publish: () => acceptance.publish() };
}

/** All that was accepted after a revision. */
export function entriesSince(projectId: string, revision: number): Promise<Entry[]> {
  return entriesAfter(projectId, revision);
}
