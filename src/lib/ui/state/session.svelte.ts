// The open project: its document, what is on its way to the server, and undo.
import { applyCommand, type Command } from "$lib/core/session/commands";
import { Document } from "$lib/core/session/document";
import type { History, HistoryItem } from "$lib/core/session/history";
import { CommandRefused } from "$lib/core/session/refused";
import { Replica, type Entry, type Outgoing } from "$lib/core/session/replica";
import type { BrokenRecording, EditsAnswer, EditsRequest, ProjectState } from "$lib/api/types";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";
import { Sender, type Hindrance } from "./sender";

/** A step through the history that someone else made: the user is asked first. */
export interface Question {
  readonly item: HistoryItem;
  readonly direction: "undo" | "redo";
}

/** What a session asks the server for. */
export interface SessionServer {
  edit(request: EditsRequest): Promise<EditsAnswer>;
  entries(after: number): Promise<Entry[]>;
  state(): Promise<ProjectState>;
}

function serverOf(projectId: string): SessionServer {
  const base = `/api/projects/${projectId}`;
  return {
    edit: (request) => api.post<EditsAnswer>(`${base}/edits`, request),
    entries: (after) => api.get<Entry[]>(`${base}/edits?after=${after}`),
    state: () => api.get<ProjectState>(base)
  };
}

export class Session {
  readonly projectId: string;
  /** This page, among those that work on the project. */
  readonly page: string = crypto.randomUUID();
  /** What all edits so far make of the document. */
  document = $state.raw() as Document;
  /** What is shown and heard while a control is being dragged: the document with the unfinished change. */
  #draft = $state.raw<Document | null>(null);
  history = $state.raw<History>({ undo: [], redo: [] });
  /** Edits that the server has not confirmed yet. */
  unsaved = $state(0);
  hindrance = $state<Hindrance>(null);
  question = $state.raw<Question | null>(null);
  /** Recordings whose file is damaged or missing. */
  broken = $state.raw<ReadonlyMap<string, "damaged" | "missing">>(new Map());
  readonly #replica: Replica;
  readonly #sender: Sender;
  readonly #server: SessionServer;
  /** Edits that were made before this page was opened: their names are known to who opened it. */
  readonly #older: ReadonlySet<string>;
  /** Told of what is shown before the page is: what is heard does not wait for what is seen. */
  onshown: (() => void) | undefined;

  constructor(
    { id, revision, document, history, broken }: ProjectState,
    server = serverOf(id),
    wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms))
  ) {
    this.projectId = id;
    this.#server = server;
    this.#replica = new Replica({ revision, document: Document.fromJson(document), history }, this.page);
    this.#older = new Set([...history.undo, ...history.redo].map((item) => item.editId));
    this.broken = new Map(broken.map((r) => [r.id, r.state]));
    this.#sender = new Sender({
      waiting: () => this.#replica.outbox,
      post: (edits) => server.edit({ page: this.page, known: this.#replica.revision, edits: [...edits] }),
      onanswer: (answer) => this.#answered(answer),
      onrefused: (sent, sentence) => this.#refused(sent, sentence),
      onhindrance: (hindrance) => (this.hindrance = hindrance),
      wait
    });
    this.#show();
  }

  #show(): void {
    this.document = this.#replica.shown;
    this.history = this.#replica.history;
    this.unsaved = this.#replica.outbox.length;
    this.onshown?.();
  }

  /** The document as it is shown and heard now. */
  get shown(): Document {
    return this.#draft ?? this.document;
  }

  get dragging(): boolean {
    return this.#draft !== null;
  }

  get revision(): number {
    return this.#replica.revision;
  }

  get undoName(): string | null {
    return this.history.undo.at(-1)?.label ?? null;
  }

  get redoName(): string | null {
    return this.history.redo.at(-1)?.label ?? null;
  }

  /** How it stands with saving, in the words of the header. */
  get saving(): string {
    if (this.unsaved === 0) return "saved";
    const changes = `${this.unsaved} change${this.unsaved === 1 ? "" : "s"}`;
    return this.hindrance === null ? `saving ${changes}` : `${changes} not saved yet: ${this.hindrance}`;
  }

  /** Shows and plays a change without making it. */
  draft(command: Command | null): void {
    try {
      this.#draft = command && applyCommand(this.document, command).document;
      this.onshown?.();
    } catch (error) {
      if (!(error instanceof CommandRefused)) throw error;
    }
  }

  /** Makes a change: at once here, then on the server. Returns false when it cannot be made. */
  run(command: Command): boolean {
    this.#draft = null;
    try {
      if (this.#replica.make(crypto.randomUUID(), command)) this.#send();
    } catch (error) {
      if (!(error instanceof CommandRefused)) throw error;
      notices.fault(error);
      return false;
    }
    return true;
  }

  undo(): void {
    this.#step("undo");
  }

  redo(): void {
    this.#step("redo");
  }

  /** A step through the history; asks first when it is someone else's, made while this page was open. */
  #step(direction: "undo" | "redo"): void {
    const item = this.history[direction].at(-1);
    if (!item) return;
    const own = item.job === null && item.page === this.page;
    if (!own && !this.#older.has(item.editId)) this.question = { item, direction };
    else this.#take(direction);
  }

  /** The user's answer to the question. */
  answer(yes: boolean): void {
    const { question } = this;
    this.question = null;
    if (!yes || !question) return;
    // What was asked about is what is taken, or nothing is.
    if (this.history[question.direction].at(-1)?.editId === question.item.editId)
      this.#take(question.direction);
  }

  #take(direction: "undo" | "redo"): void {
    this.#draft = null;
    if (this.#replica.step(crypto.randomUUID(), direction)) this.#send();
  }

  #send(): void {
    this.#show();
    this.#sender.wake().catch((error: unknown) => notices.fault(error));
  }

  /** Waits until everything so far is on the server. */
  settled(): Promise<void> {
    return this.#sender.wake();
  }

  async #answered(answer: EditsAnswer): Promise<void> {
    for (const { editId, error } of answer.refused) {
      this.#replica.refuse(editId);
      notices.fault(error);
    }
    await this.receive(answer.entries);
  }

  #refused(sent: readonly Outgoing[], sentence: string): void {
    for (const { editId } of sent) this.#replica.refuse(editId);
    notices.fault(sentence);
    this.#show();
  }

  /** Takes in what the server has accepted, from whomever. */
  async receive(entries: readonly Entry[]): Promise<void> {
    try {
      this.#replica.take(entries);
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      await this.catchUp();
      return;
    }
    this.#show();
  }

  /** Asks for what was accepted meanwhile: after a lost connection. */
  async catchUp(): Promise<void> {
    const entries = await this.#server.entries(this.#replica.revision);
    const [first] = entries;
    if (first && first.revision > this.#replica.revision + 1) {
      // Too far back: the server no longer has all that lies between.
      const { revision, document, history } = await this.#server.state();
      this.#replica.reset({ revision, document: Document.fromJson(document), history });
    } else this.#replica.take(entries);
    this.#show();
    if (this.unsaved > 0) this.#send();
  }

  /** The file of a recording was checked. */
  heardOfRecording({ id, state }: { id: string; state: BrokenRecording["state"] | "good" }): void {
    const next = new Map(this.broken);
    if (state === "good") next.delete(id);
    else next.set(id, state);
    this.broken = next;
  }

  close(): void {
    this.#sender.close();
  }
}
