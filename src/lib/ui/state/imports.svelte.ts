// Files on their way to being recordings: waiting, sent, decoded. They go on where they were: after a lost connection for minutes, and after the
// page was loaded anew.
import { createStore, delMany, entries, setMany } from "idb-keyval";
import { Upload, type DetailedError } from "tus-js-client";
import type { JobView } from "$lib/api/jobs";
import { api } from "../shared/api";
import type { GivenFile } from "../shared/givenFiles";
import { notices } from "../shared/notices.svelte";
import { ImportRows, isOpen, type ImportRow } from "./importRows.svelte";

const CHUNK_BYTES = 16 << 20;
/** So short a file is sent with the request that announces it. */
const SHORT_BYTES = 1 << 20;
/** Waits between tries, in all about ten minutes; they begin anew whenever some of the file has arrived. */
const RETRY_MS = [0, 500, 1000, 2000, 4000, 8000, ...new Array<number>(20).fill(30000)];
/** So many files are sent at once; the others wait. While one is sent the one before it is imported: two at once are hardly faster and hold the page up. */
const AT_ONCE = 1;
/** So many files are put into the browser's store at once. */
const STORED_AT_ONCE = 2;
/** Between two of these there is room for other things: the browser may hold the page up while it stores. */
const STORE_PAUSE_MS = 30;
/** While others wait, files that need not be kept any more are taken out of the browser's store together, after this. */
const FORGOTTEN_AFTER_MS = 500;
/** Rows of files that are in or out go by themselves after this, when nothing is under way. */
const GONE_MS = 8000;

interface Sent extends GivenFile {
  /** Whether what can be read of it will do. */
  readonly partial?: boolean;
}

interface Pending extends Sent {
  readonly projectId: string;
}

/** How the server says that a part of a file can be read. */
const TORN = /: (?:it is (?:cut off|damaged after|truncated: its header promises))/;

/** Whether trying again may help: the server did not answer, or is going down or coming up. */
function mayHelp(error: unknown): boolean {
  const response = (error as DetailedError).originalResponse;
  return response === null || [500, 502, 503, 504].includes(response.getStatus());
}

export class Imports {
  readonly #rows = new ImportRows();
  readonly #files = createStore("wring-uploads", "files");
  readonly #storing = new Map<string, Promise<void>>();
  readonly #waiting: { readonly key: string; readonly given: Sent; readonly resumed: boolean }[] = [];
  /** What was sent by this page, until its row goes. */
  readonly #sent = new Map<string, Sent>();
  readonly #uploads = new Map<string, { abort(): void }>();
  /** Keys of rows by the server's jobs. */
  readonly #jobs = new Map<string, string>();
  /** News of jobs that came before it was known whose they are. */
  readonly #early = new Map<string, JobView>();
  #sending = 0;
  /** Keys of files in the browser's store. */
  readonly #kept = new Set<string>();
  /** Keys of files that are to be taken out of the browser's store. */
  #forgotten: string[] = [];
  #tidy: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly projectId: string) {}

  get rows(): readonly ImportRow[] {
    return this.#rows.shown;
  }

  /** Share of all rows that is done, 0 to 1; sending and decoding count half each. */
  get progress(): number {
    if (this.rows.length === 0) return 1;
    const done = this.rows.reduce((sum, { state, progress }) => {
      if (state === "waiting") return sum;
      if (state === "sending") return sum + progress / 2;
      return sum + (state === "decoding" ? 0.5 + progress / 2 : 1);
    }, 0);
    return done / this.rows.length;
  }

  /** Takes up what an earlier page of this project had begun. */
  async resume(): Promise<void> {
    try {
      const known = await entries<string, Pending>(this.#files);
      for (const [key] of known) this.#kept.add(key);
      this.#queue(
        known
          .filter(([, { projectId }]) => projectId === this.projectId)
          .map(([key, { folder = "", ...given }]) => ({ key, given: { ...given, folder }, resumed: true }))
      );
    } catch (error) {
      // Without the browser's store uploads still go on, as long as the page is open.
      notices.fault(`Uploads that were interrupted cannot be taken up: ${(error as Error).message}.`);
    }
  }

  /** Sends files; each becomes a recording of the project. Returns the keys of their rows. */
  add(files: readonly Sent[]): string[] {
    const begun = files.map((given) => ({ key: crypto.randomUUID(), given, resumed: false }));
    // The browser may take its time to store files, and stores some at a time; without it an upload only does not survive a reload. The last to be
    // sent come first: the others are often sent before it is their turn.
    let stored = Promise.resolve();
    for (let end = begun.length; end > 0; end -= STORED_AT_ONCE) {
      const some = begun.slice(Math.max(0, end - STORED_AT_ONCE), end);
      stored = stored.then(() => this.#store(some)).catch(() => undefined);
      for (const { key } of some) this.#storing.set(key, stored);
    }
    this.#queue(begun);
    return begun.map(({ key }) => key);
  }

  /** Puts files into the browser's store; those that have been sent meanwhile need not be. */
  async #store(some: readonly { readonly key: string; readonly given: Sent }[]): Promise<void> {
    await new Promise((resolve) => setTimeout(resolve, STORE_PAUSE_MS));
    const left = some.filter(({ key }) => this.#storing.has(key));
    const projectId = this.projectId;
    for (const { key } of left) this.#kept.add(key);
    if (left.length > 0)
      await setMany(
        left.map(({ key, given }) => [key, { projectId, ...given }]),
        this.#files
      );
  }

  /** Sends a refused file once more, to take what can be read of it. */
  takePart(key: string): void {
    const given = this.#sent.get(key);
    if (!given) return;
    this.#rows.remove(key);
    this.#sent.delete(key);
    this.add([{ ...given, partial: true }]);
  }

  /** Lets files wait for their turn: however many, their rows are made at once. */
  #queue(begun: readonly { readonly key: string; readonly given: Sent; readonly resumed: boolean }[]): void {
    clearTimeout(this.#tidy);
    for (const { key, given } of begun) {
      this.#sent.set(key, given);
      this.#rows.put(key, { name: given.file.name });
    }
    this.#waiting.push(...begun);
    this.#next();
  }

  #put(key: string, change: Partial<ImportRow>): void {
    this.#rows.put(key, change);
    if (this.#rows.open > 0) return;
    clearTimeout(this.#tidy);
    // What was refused stays until it is read.
    this.#tidy = setTimeout(() => this.#rows.keep(({ state }) => state === "refused"), GONE_MS);
  }

  /** Takes ended rows away. */
  clear(): void {
    this.#rows.keep(isOpen);
    for (const key of [...this.#sent.keys()]) if (!this.#rows.get(key)) this.#sent.delete(key);
  }

  #next(): void {
    while (this.#sending < AT_ONCE) {
      const next = this.#waiting.shift();
      if (!next) return;
      this.#sending++;
      this.#begin(next.key, next.given, next.resumed)
        .catch((error: unknown) => notices.fault(error))
        .finally(() => {
          this.#sending--;
          if (this.#sending === 0) this.#early.clear();
          this.#next();
        });
    }
  }

  #forget(key: string): void {
    this.#uploads.delete(key);
    const stored = this.#storing.get(key);
    this.#storing.delete(key);
    Promise.resolve(stored).then(
      () => this.#takeOut(key),
      () => undefined
    );
  }

  #takeOut(key: string): void {
    if (!this.#kept.delete(key)) return;
    this.#forgotten.push(key);
    if (this.#forgotten.length > 1) return;
    setTimeout(
      () => {
        const keys = this.#forgotten;
        this.#forgotten = [];
        // What cannot be forgotten is offered again, and refused as known.
        delMany(keys, this.#files).catch(() => undefined);
      },
      this.#waiting.length > 0 ? FORGOTTEN_AFTER_MS : 0
    );
  }

  /** Sends a file, unless another page of this browser is at it. */
  async #begin(key: string, given: Sent, resumed: boolean): Promise<void> {
    await navigator.locks.request(`wring-upload-${key}`, { ifAvailable: true }, async (lock) => {
      if (lock) await this.#send(key, given, resumed);
      else this.#rows.remove(key);
    });
  }

  /** Resolves when the file is there, was refused, or has been given up. */
  async #send(key: string, { file, folder, partial = false }: Sent, resumed: boolean): Promise<void> {
    let ended: () => void = () => undefined;
    const end = new Promise<void>((resolve) => (ended = resolve));
    const short = file.size <= SHORT_BYTES;
    const upload = new Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: CHUNK_BYTES,
      uploadDataDuringCreation: short,
      // It is sent in one go, or once more.
      storeFingerprintForResuming: !short,
      retryDelays: RETRY_MS,
      removeFingerprintOnSuccess: true,
      fingerprint: () => Promise.resolve(`wring-${key}`),
      metadata: { filename: file.name, folder, projectId: this.projectId, partial: partial ? "1" : "" },
      onShouldRetry: mayHelp,
      onProgress: (sent, total) => this.#put(key, { progress: total > 0 ? sent / total : 0 }),
      onAfterResponse: (_request, response) => {
        const job = response.getHeader("X-Job");
        if (job) this.#jobs.set(job, key);
      },
      onSuccess: () => {
        this.#forget(key);
        // A short one may have been decoded before this was heard.
        if (this.#rows.get(key)?.state === "sending") this.#put(key, { state: "decoding", progress: 0 });
        this.#hearEarly(key);
        ended();
      },
      onError: (error) => {
        this.#forget(key);
        const sentence = (error as DetailedError).originalResponse?.getBody();
        const reason = sentence ? sentence : `"${file.name}" was not imported: the upload was interrupted.`;
        this.#put(key, { state: "refused", reason });
        notices.fault(reason);
        ended();
      }
    });
    this.#uploads.set(key, {
      abort: () => {
        // The server forgets it by itself after a day.
        upload.abort(true).catch(() => undefined);
        ended();
      }
    });
    this.#put(key, { state: "sending", progress: 0 });
    const [before] = resumed ? await upload.findPreviousUploads() : [];
    if (before) upload.resumeFromPreviousUpload(before);
    upload.start();
    await end;
  }

  #jobOf(key: string): string | undefined {
    return [...this.#jobs].find(([, own]) => own === key)?.[0];
  }

  /** Hears of the job of a sent file what came before it was known here. */
  #hearEarly(key: string): void {
    const early = this.#early.get(this.#jobOf(key) ?? "");
    if (!early) return;
    this.#early.delete(early.id);
    this.heard(early);
  }

  /** News of a job; those of imports that this page did not begin get a row as well. */
  heard(job: JobView): void {
    if (job.kind !== "import") return;
    let key = this.#jobs.get(job.id);
    if (key === undefined) {
      // While something is being sent it may be that, its answer still on the way.
      if (this.#sending > 0) this.#early.set(job.id, job);
      if (job.endedAt !== null || this.#sending > 0) return;
      key = job.id;
      this.#jobs.set(job.id, key);
    }
    const known = this.#rows.get(key);
    // What was asked for may answer after the news of the end.
    if (known ? !isOpen(known) : job.endedAt !== null) return;
    const name = job.title.replace(/^Import /, "");
    if (job.endedAt === null) this.#put(key, { name, state: "decoding", progress: job.progress });
    else if (job.state === "failed")
      this.#put(key, {
        state: "refused",
        reason: job.error,
        torn: this.#sent.has(key) && TORN.test(job.error ?? "")
      });
    else if (job.state === "cancelled") this.#put(key, { state: "cancelled" });
    else {
      const { same, recordingId } = job.result as { same: string | null; recordingId: string };
      const how =
        same === null
          ? { state: "done" as const }
          : { state: "same" as const, reason: `the same as "${same}"` };
      this.#put(key, { ...how, recordingId });
    }
  }

  /** Gives a file up, wherever it is. */
  cancel(key: string): void {
    const row = this.#rows.get(key);
    if (!row || !isOpen(row)) return;
    const at = this.#waiting.findIndex((one) => one.key === key);
    if (at >= 0) this.#waiting.splice(at, 1);
    if (row.state === "decoding") {
      const id = this.#jobOf(key);
      if (id !== undefined)
        api.post(`/api/jobs/${id}/cancel`).catch((error: unknown) => notices.fault(error));
      return;
    }
    this.#uploads.get(key)?.abort();
    this.#forget(key);
    this.#put(key, { state: "cancelled" });
    notices.news(`Upload ${row.name}: cancelled, nothing was kept.`);
  }

  cancelAll(): void {
    for (const { key } of this.#rows.unfinished.reverse()) this.cancel(key);
  }
}
