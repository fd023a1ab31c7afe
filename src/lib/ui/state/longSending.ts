// A long file on its way, in parts: after a lost connection it goes on where it was.
import { Upload, type DetailedError } from "tus-js-client";
import { mayHelp, RETRY_MS } from "./retries";

const CHUNK_BYTES = 16 << 20;

export interface LongGiven {
  readonly key: string;
  readonly file: File;
  readonly folder: string;
  readonly partial: boolean;
}

export interface LongPort {
  progress(share: number): void;
  /** All of it has arrived, and this job imports it. */
  taken(jobId: string): void;
  refused(sentence: string): void;
}

export class LongSending {
  readonly #upload: Upload;
  readonly #done: Promise<void>;
  #end: () => void = () => undefined;

  constructor(projectId: string, { key, file, folder, partial }: LongGiven, port: LongPort) {
    this.#done = new Promise((resolve) => (this.#end = resolve));
    let job = "";
    this.#upload = new Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: CHUNK_BYTES,
      // They begin anew whenever some of the file has arrived.
      retryDelays: [...RETRY_MS],
      removeFingerprintOnSuccess: true,
      fingerprint: () => Promise.resolve(`wring-${key}`),
      metadata: { filename: file.name, folder, projectId, partial: partial ? "1" : "" },
      onShouldRetry: ({ originalResponse }) => mayHelp(originalResponse?.getStatus() ?? 0),
      onProgress: (sent, total) => port.progress(total > 0 ? sent / total : 0),
      onAfterResponse: (_request, response) => {
        job = response.getHeader("X-Job") ?? job;
      },
      onSuccess: () => {
        port.taken(job);
        this.#end();
      },
      onError: (error) => {
        const sentence = (error as DetailedError).originalResponse?.getBody();
        port.refused(sentence ? sentence : `"${file.name}" was not imported: the upload was interrupted.`);
        this.#end();
      }
    });
  }

  /** @param resumed whether an earlier page has begun it. Resolves when the file is there, was refused, or was given up */
  async run(resumed: boolean): Promise<void> {
    const [before] = resumed ? await this.#upload.findPreviousUploads() : [];
    if (before) this.#upload.resumeFromPreviousUpload(before);
    this.#upload.start();
    await this.#done;
  }

  giveUp(): void {
    // The server forgets it by itself after a day.
    this.#upload.abort(true).catch(() => undefined);
    this.#end();
  }
}
