// A file that grows is put on the disk while it does: at its end little is left to wait for.
import { fdatasync, fsyncSync } from "node:fs";
import { promisify } from "node:util";

/** Seldom: what is written meanwhile waits a little each time, a tenth of an import when it was 32 MB. */
const EVERY_BYTES = 256 << 20;
const put = promisify(fdatasync);

export class Syncing {
  #going: Promise<void> | undefined;
  #asked = 0;
  #fault: unknown;

  constructor(private readonly fd: number) {}

  /** The file has grown to so many bytes. */
  grown(bytes: number): void {
    if (this.#going || bytes - this.#asked < EVERY_BYTES) return;
    this.#asked = bytes;
    this.#going = put(this.fd)
      .catch((error: unknown) => {
        // A fault is told once only, to whoever asks first.
        this.#fault ??= error;
      })
      .then(() => {
        this.#going = undefined;
      });
  }

  /** Waits until nothing is under way: the file may be closed then. */
  async settled(): Promise<void> {
    await this.#going;
  }

  /** Puts the rest on the disk. @throws what the system says when it could not */
  async finish(): Promise<void> {
    await this.settled();
    if (this.#fault !== undefined) throw this.#fault as Error;
    fsyncSync(this.fd);
  }
}
