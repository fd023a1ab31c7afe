// The open project: its document, what is sent to the server, and undo.
import { applyCommand, type Command } from "$lib/core/session/apply";
import { CommandRefused } from "$lib/core/session/commands/command";
import type { Document } from "$lib/core/session/schema";
import type { ProjectState } from "$lib/api/types";
import { api, Refused } from "../shared/api";
import { notices } from "../shared/notices.svelte";

export class Session {
  readonly projectId: string;
  /** What all edits so far make of the document. */
  document = $state.raw<Document>() as Document;
  /** What is shown and heard while a control is being dragged: the document with the unfinished change. */
  #draft = $state.raw<Document | null>(null);
  undoName = $state<string | null>(null);
  redoName = $state<string | null>(null);
  /** Edits that the server has not confirmed yet. */
  unsaved = $state(0);
  #revision: number;
  #tail: Promise<void> = Promise.resolve();

  constructor(state: ProjectState) {
    this.projectId = state.id;
    this.#revision = state.revision;
    this.document = state.document;
    this.undoName = state.undo;
    this.redoName = state.redo;
  }

  /** The document as it is shown and heard now. */
  get shown(): Document {
    return this.#draft ?? this.document;
  }

  get dragging(): boolean {
    return this.#draft !== null;
  }

  /** Shows and plays a change without making it. */
  draft(command: Command | null): void {
    if (!command) {
      this.#draft = null;
      return;
    }
    try {
      this.#draft = applyCommand(this.document, command).document;
    } catch (error) {
      if (!(error instanceof CommandRefused)) throw error;
    }
  }

  /** Makes a change: at once here, then on the server. Returns false when it cannot be made. */
  run(command: Command): boolean {
    this.#draft = null;
    try {
      const applied = applyCommand(this.document, command);
      if (applied.patches.length === 0) return true;
      this.document = applied.document;
      this.undoName = applied.label;
      this.redoName = null;
    } catch (error) {
      if (!(error instanceof CommandRefused)) throw error;
      notices.fault(error);
      return false;
    }
    this.#queue(() => this.#send("edits", { revision: this.#revision, command }));
    return true;
  }

  undo(): void {
    if (this.undoName)
      this.#queue(() => this.#send("history", { revision: this.#revision, direction: "undo" }));
  }

  redo(): void {
    if (this.redoName)
      this.#queue(() => this.#send("history", { revision: this.#revision, direction: "redo" }));
  }

  #queue(work: () => Promise<void>): void {
    this.unsaved++;
    this.#tail = this.#tail.then(work).finally(() => this.unsaved--);
  }

  /** Waits until everything so far is on the server. */
  settled(): Promise<void> {
    return this.#tail;
  }

  async #send(where: "edits" | "history", body: unknown): Promise<void> {
    try {
      const state = await api.post<ProjectState>(`/api/projects/${this.projectId}/${where}`, body);
      this.#revision = state.revision;
      // Later edits that are still on their way stand on this one; only the last answer is the newest state.
      if (this.unsaved === 1) this.#take(state);
    } catch (error) {
      notices.fault(error);
      if (error instanceof Refused && error.status !== 0) await this.reload();
    }
  }

  #take(state: ProjectState): void {
    this.#revision = state.revision;
    this.document = state.document;
    this.undoName = state.undo;
    this.redoName = state.redo;
  }

  /** Shows the server's true state. */
  async reload(): Promise<void> {
    this.#take(await api.get<ProjectState>(`/api/projects/${this.projectId}`));
  }

  /** The server has a newer revision: from a finished job or another window. */
  heardOf(revision: number): void {
    if (revision <= this.#revision) return;
    // Behind our own edits, which may be what the news is about; not one of them, so it is not counted as unsaved.
    this.#tail = this.#tail.then(async () => {
      if (revision > this.#revision) await this.reload().catch((error: unknown) => notices.fault(error));
    });
  }
}
