// Entries of a ZIP file, as promises.
import { createWriteStream } from "node:fs";
import type { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { open, type Entry, type ZipFile } from "yauzl";
import { FileFault } from "$lib/core/formats/fault";

const MOST_TEXT = 512 << 20;

/** A ZIP file that is open. Names that lead out of a folder are refused by the library. */
export class Zip {
  private constructor(
    private readonly file: ZipFile,
    readonly entries: readonly Entry[]
  ) {}

  /** @throws FileFault when it is no ZIP file, or damaged */
  static async open(path: string): Promise<Zip> {
    const file = await new Promise<ZipFile>((resolve, reject) =>
      open(path, { lazyEntries: true, autoClose: false }, (error, zip) =>
        zip
          ? resolve(zip)
          : reject(
              new FileFault("it is no ZIP file that can be read, or one that is cut off", { cause: error })
            )
      )
    );
    try {
      const entries = await new Promise<Entry[]>((resolve, reject) => {
        const found: Entry[] = [];
        file.on("entry", (entry: Entry) => {
          found.push(entry);
          file.readEntry();
        });
        file.on("end", () => resolve(found));
        file.on("error", (error: Error) => reject(new FileFault(`it is damaged (${error.message})`)));
        file.readEntry();
      });
      return new Zip(file, entries);
    } catch (error) {
      file.close();
      throw error;
    }
  }

  #stream(entry: Entry): Promise<Readable> {
    return new Promise((resolve, reject) =>
      this.file.openReadStream(entry, (error, stream) =>
        stream
          ? resolve(stream)
          : reject(new FileFault(`"${entry.fileName}" in it is damaged (${error?.message ?? ""})`))
      )
    );
  }

  /** The text of an entry. */
  async text(entry: Entry): Promise<string> {
    if (entry.uncompressedSize > MOST_TEXT)
      throw new FileFault(`"${entry.fileName}" in it is larger than any project`);
    const parts: Buffer[] = [];
    for await (const part of await this.#stream(entry)) parts.push(part as Buffer);
    return Buffer.concat(parts).toString("utf8");
  }

  /** Writes an entry into a new file. */
  async extract(entry: Entry, target: string): Promise<void> {
    await pipeline(await this.#stream(entry), createWriteStream(target, { flags: "wx" })).catch(
      (error: unknown) => {
        if ((error as NodeJS.ErrnoException).code === "ENOSPC") throw error;
        throw new FileFault(`"${entry.fileName}" in it is damaged (${(error as Error).message})`);
      }
    );
  }

  close(): void {
    this.file.close();
  }
}
