// Files on their way to being recordings: waiting, sent, decoded. They go on where they were: after a lost connection for minutes, and after the
// page was loaded anew.
import type { JobView } from "$lib/api/jobs";
import { SHORT_BYTES, SHORT_TOGETHER, SHORT_TOGETHER_BYTES } from "$lib/api/shortFiles";
import { api, Refused } from "../shared/api";
import type { GivenFile } from "../shared/givenFiles";
import { notices } from "../shared/notices.svelte";
import { ImportRows, isOpen, type ImportRow } from "./importRows.svelte";
import { KeptFiles } from "./keptFiles";
import { LongSending } from "./longSending";
import { ShortSending } from "./shortSending";

/** So many requests are under way at once; the others wait. While one is sent what came before it is imported: two at once are hardly faster and hold the page up. */
const AT_ONCE = 1;
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

/** A file whose turn has not come. */
interface Waiting {
  readonly key: string;
  readonly given: Sent;
  /** Whether an earlier page has begun it. */
  readonly resumed: boolean;
}

export class Imports {
  readonly #rows = new ImportRows();
  readonly #waiting: Waiting[] = [];
  readonly #kept = new KeptFiles<Pending>(() => this.#waiting.length > 0);
  /** What was sent by this page, until its row goes. */
  readonly #sent = new Map<string, Sent>();
  /** How files that are on their way are given up, with or without a message of their own. */
  readonly #givingUp = new Map<string, (tell: boolean) => void>();
  /** Keys of rows by the server's jobs. */
  readonly #jobs = new Map<string, string>();
  /** News of jobs that came before it was known whose they are. */
  readonly #early = new Map<string, JobView>();
  #sending = 0;
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
      this.#queue(
        (await this.#kept.all())
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
    // What became of earlier ones has been seen, but for what was refused.
    if (this.#rows.open === 0) this.#rows.keep(({ state }) => state === "refused");
    return this.#send(files);
  }

  #send(files: readonly Sent[]): string[] {
    const begun = files.map((given) => ({ key: crypto.randomUUID(), given, resumed: false }));
    this.#kept.keep(begun.map(({ key, given }) => [key, { projectId: this.projectId, ...given }]));
    this.#queue(begun);
    return begun.map(({ key }) => key);
  }

  /** Sends a refused file once more, to take what can be read of it. */
  takePart(key: string): void {
    const given = this.#sent.get(key);
    if (!given) return;
    this.#rows.remove(key);
    this.#sent.delete(key);
    this.#send([{ ...given, partial: true }]);
  }

  /** Lets files wait for their turn: however many, their rows are made at once. */
  #queue(begun: readonly Waiting[]): void {
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
    this.#tidy = setTimeout(() => this.#leaveUnread(), GONE_MS);
  }

  /** Takes rows away by itself. With one refused, or one of several that is here already, all stay until that is read. */
  #leaveUnread(): void {
    const telling = this.rows.some(
      ({ state }) => state === "refused" || (state === "same" && this.rows.length > 1)
    );
    if (!telling) this.clear();
  }

  /** Takes ended rows away. */
  clear(): void {
    this.#rows.keep(isOpen);
    for (const key of [...this.#sent.keys()]) if (!this.#rows.get(key)) this.#sent.delete(key);
  }

  #next(): void {
    while (this.#sending < AT_ONCE && this.#waiting.length > 0) {
      this.#sending++;
      this.#begin(this.#taken())
        .catch((error: unknown) => notices.fault(error))
        .finally(() => {
          this.#sending--;
          if (this.#sending === 0) this.#early.clear();
          this.#next();
        });
    }
  }

  /** The next that are sent together: a long file, or short ones. */
  #taken(): Waiting[] {
    let bytes = 0;
    const over = this.#waiting.findIndex(({ given: { file } }, i) => {
      bytes += file.size;
      return i === SHORT_TOGETHER || file.size > SHORT_BYTES || bytes > SHORT_TOGETHER_BYTES;
    });
    return this.#waiting.splice(0, Math.max(1, over < 0 ? this.#waiting.length : over));
  }

  /** Sends files, but those that another page of this browser is at. */
  async #begin(some: readonly Waiting[]): Promise<void> {
    const locks = await Promise.all(some.map(({ key }) => lockOf(key)));
    try {
      some.forEach(({ key }, i) => locks[i] ?? this.#rows.remove(key));
      // Some may have been given up meanwhile.
      const own = some.filter(({ key }) => this.#rows.get(key)?.state === "waiting");
      for (const { key } of own) this.#put(key, { state: "sending", progress: 0 });
      const [first] = own;
      if (!first) return;
      if (first.given.file.size > SHORT_BYTES) await this.#sendLong(first);
      else await this.#sendShort(own);
    } finally {
      for (const release of locks) release?.();
    }
  }

  #refuse(key: string, reason: string): void {
    this.#leave(key);
    this.#put(key, { state: "refused", reason });
    notices.fault(reason);
  }

  /** A file is no more on its way. */
  #leave(key: string): void {
    this.#givingUp.delete(key);
    this.#kept.forget(key);
  }

  async #sendLong({ key, given: { file, folder, partial = false }, resumed }: Waiting): Promise<void> {
    const sending = new LongSending(
      this.projectId,
      { key, file, folder, partial },
      {
        progress: (progress) => this.#put(key, { progress }),
        taken: (jobId) => {
          this.#leave(key);
          this.#jobs.set(jobId, key);
          this.#put(key, { state: "decoding", progress: 0 });
          const early = this.#early.get(jobId);
          this.#early.delete(jobId);
          if (early) this.heard(early);
        },
        refused: (sentence) => this.#refuse(key, sentence)
      }
    );
    this.#givingUp.set(key, (tell) => {
      sending.giveUp();
      this.#cancelled(key, tell);
    });
    await sending.run(resumed);
  }

  async #sendShort(some: readonly Waiting[]): Promise<void> {
    const given = some.map(({ key, given: { file, folder, partial = false } }) => ({
      key,
      file,
      folder,
      partial
    }));
    const sending = new ShortSending(this.projectId, given, {
      taken: (key, job) => {
        this.#leave(key);
        this.heard(job);
      },
      refused: (key, sentence) => this.#refuse(key, sentence),
      givenUp: (key) => this.#cancelled(key, false)
    });
    for (const { key } of some) {
      this.#jobs.set(key, key);
      this.#givingUp.set(key, (tell) => {
        sending.giveUp(key).then(
          () => this.#cancelled(key, tell),
          (error: unknown) => {
            // It had been imported already: that is told as of any other.
            if (error instanceof Refused && error.status === 409) return;
            this.#leave(key);
            this.#put(key, { state: "cancelled" });
            notices.fault(error);
          }
        );
      });
    }
    await sending.run();
  }

  #jobOf(key: string): string | undefined {
    return [...this.#jobs].find(([, own]) => own === key)?.[0];
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
    this.#cancel(key, true);
  }

  #cancel(key: string, tell: boolean): void {
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
    const giveUp = this.#givingUp.get(key);
    if (giveUp) giveUp(tell);
    else this.#cancelled(key, tell);
  }

  #cancelled(key: string, tell: boolean): void {
    const name = this.#rows.get(key)?.name ?? "";
    this.#leave(key);
    this.#put(key, { state: "cancelled" });
    if (tell) notices.news(`Upload ${name}: cancelled, nothing was kept.`);
  }

  /** Gives all up that are not in yet. */
  cancelAll(): void {
    const open = this.#rows.unfinished.reverse();
    for (const { key } of open) this.#cancel(key, open.length === 1);
    if (open.length > 1) notices.news(`${open.length} files: cancelled, nothing was kept of them.`);
  }
}

/** Lets this page alone send a file of this browser's store: what lets it go again, undefined when another page is at it. */
function lockOf(key: string): Promise<(() => void) | undefined> {
  return new Promise((resolve, reject) => {
    navigator.locks
      .request(`wring-upload-${key}`, { ifAvailable: true }, (lock) => {
        if (!lock) resolve(undefined);
        else return new Promise<void>((release) => resolve(release));
      })
      .catch(reject);
  });
}
