// Files on their way to the server. They go on where they were: after a lost connection for minutes, and after the page was loaded anew.
import { createStore, del, entries, set } from "idb-keyval";
import { Upload, type DetailedError } from "tus-js-client";
import { notices } from "../shared/notices.svelte";
import type { Work } from "./work";

const CHUNK_BYTES = 16 << 20;
/** Waits between tries, in all about ten minutes; they begin anew whenever some of the file has arrived. */
const RETRY_MS = [0, 500, 1000, 2000, 4000, 8000, ...new Array<number>(20).fill(30000)];

interface Pending {
  readonly projectId: string;
  readonly file: File;
}

/** Whether trying again may help: the server did not answer, or is going down or coming up. */
function mayHelp(error: unknown): boolean {
  const response = (error as DetailedError).originalResponse;
  return response === null || [500, 502, 503, 504].includes(response.getStatus());
}

export class Uploads {
  list = $state.raw<readonly Work[]>([]);
  readonly #files = createStore("wring-uploads", "files");
  readonly #storing = new Map<string, Promise<void>>();

  constructor(private readonly projectId: string) {}

  /** Takes up what an earlier page of this project had begun. */
  async resume(): Promise<void> {
    try {
      for (const [key, { projectId, file }] of await entries<string, Pending>(this.#files))
        if (projectId === this.projectId) this.#begin(key, file, true);
    } catch (error) {
      // Without the browser's store uploads still go on, as long as the page is open.
      notices.fault(`Uploads that were interrupted cannot be taken up: ${(error as Error).message}.`);
    }
  }

  /** Uploads a file; it becomes a recording of the project. */
  add(file: File): void {
    const key = crypto.randomUUID();
    // The browser may take its time to store a long file; without it the upload only does not survive a reload.
    const pending: Pending = { projectId: this.projectId, file };
    this.#storing.set(
      key,
      set(key, pending, this.#files).catch(() => undefined)
    );
    this.#begin(key, file, false);
  }

  #show(key: string, work: Work | null): void {
    const others = this.list.filter((u) => u.id !== key);
    this.list = work ? [...others, work] : others;
  }

  #forget(key: string): void {
    this.#show(key, null);
    // What cannot be forgotten is offered again, and refused as known.
    Promise.resolve(this.#storing.get(key))
      .then(() => del(key, this.#files))
      .catch(() => undefined);
    this.#storing.delete(key);
  }

  /** Sends a file, unless another page of this browser is at it. */
  #begin(key: string, file: File, resumed: boolean): void {
    navigator.locks
      .request(`wring-upload-${key}`, { ifAvailable: true }, async (lock) => {
        if (lock) await this.#send(key, file, resumed);
      })
      .catch((error: unknown) => notices.fault(error));
  }

  /** Resolves when the file is there, was refused, or has been given up. */
  async #send(key: string, file: File, resumed: boolean): Promise<void> {
    let ended: () => void = () => undefined;
    const end = new Promise<void>((resolve) => (ended = resolve));
    const title = `Upload ${file.name}`;
    const upload = new Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: CHUNK_BYTES,
      retryDelays: RETRY_MS,
      removeFingerprintOnSuccess: true,
      fingerprint: () => Promise.resolve(`wring-${key}`),
      metadata: { filename: file.name, projectId: this.projectId },
      onShouldRetry: mayHelp,
      onProgress: (sent, total) => progress(total > 0 ? sent / total : 0),
      onSuccess: () => {
        this.#forget(key);
        ended();
      },
      onError: (error) => {
        this.#forget(key);
        ended();
        const sentence = (error as DetailedError).originalResponse?.getBody();
        notices.fault(sentence ? sentence : `"${file.name}" was not imported: the upload was interrupted.`);
      }
    });
    const cancel = () => {
      // The server forgets it by itself after a day.
      upload.abort(true).catch(() => undefined);
      this.#forget(key);
      ended();
      notices.news(`${title}: cancelled, nothing was kept.`);
    };
    const progress = (share: number) =>
      this.#show(key, { id: key, kind: "upload", title, progress: share, cancel });
    progress(0);
    const [before] = resumed ? await upload.findPreviousUploads() : [];
    if (before) upload.resumeFromPreviousUpload(before);
    upload.start();
    await end;
  }
}
