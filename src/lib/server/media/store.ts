// The media store: originals and renders under the hash of their content, and the caches made from them.
//
// A file comes in finished and synced, under another name, and is then given its own. Who stops in between leaves a part or a file
// that no recording knows; both are found at the next start.
import { randomUUID } from "node:crypto";
import {
  closeSync,
  constants,
  copyFileSync,
  existsSync,
  fsyncSync,
  linkSync,
  lstatSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync
} from "node:fs";
import path from "node:path";
import { isContentOf } from "./hash";
import { mediaFileOf, mediaFolder, originalPath, sourcePath } from "./paths";

/** What the check of a recording's file found. */
export type FileState = "good" | "damaged" | "missing";

const PART = ".part";

/** A name of its own for a file that is being written beside `target`. */
export function partName(target: string): string {
  return `${target}.${randomUUID()}${PART}`;
}

/** Makes sure that a file's content is on the disk. */
export function syncFile(file: string): void {
  const fd = openSync(file, "r+");
  try {
    fsyncSync(fd);
  } finally {
    closeSync(fd);
  }
}

function syncFolder(folder: string): void {
  const fd = openSync(folder, "r");
  try {
    fsyncSync(fd);
  } finally {
    closeSync(fd);
  }
}

export class MediaStore {
  constructor(private readonly data: string) {}

  original(hash: string): string {
    return originalPath(this.data, hash);
  }

  has(hash: string): boolean {
    return existsSync(this.original(hash));
  }

  /** Keeps the file that a recording was decoded from; the first that was given stays. */
  adoptSource(file: string, hash: string): void {
    this.#take(file, sourcePath(this.data, hash), false);
  }

  /**
   * Gives the store a file whose content has this hash; the file itself stays where it is. What is there already under the hash is
   * replaced when `replace` says that it is damaged.
   */
  adopt(file: string, hash: string, replace = false): void {
    this.#take(file, this.original(hash), replace);
  }

  #take(file: string, target: string, replace: boolean): void {
    if (existsSync(target) && !replace) return;
    mkdirSync(path.dirname(target), { recursive: true });
    const part = partName(target);
    try {
      try {
        linkSync(file, part);
      } catch {
        // A file system without links.
        copyFileSync(file, part, constants.COPYFILE_EXCL);
        syncFile(part);
      }
      renameSync(part, target);
    } finally {
      // A rename over another name of the same file leaves both.
      rmSync(part, { force: true });
    }
    syncFolder(path.dirname(target));
  }

  /** Takes caches that were made in a folder; they are named as they are named here. */
  adoptCaches(folder: string): void {
    for (const name of existsSync(folder) ? readdirSync(folder) : []) {
      const known = mediaFileOf(name);
      if (known?.kind !== "cache") continue;
      const target = path.join(path.dirname(this.original(known.hash)), name);
      mkdirSync(path.dirname(target), { recursive: true });
      renameSync(path.join(folder, name), target);
    }
  }

  /** Reads a recording's file through and compares its hash with its name. Takes as long as reading takes. */
  verify(hash: string, tick: (share: number) => void = () => undefined): FileState {
    const file = this.original(hash);
    const found = statSync(file, { throwIfNoEntry: false });
    if (!found) return "missing";
    return isContentOf(hash, file, tick, found.size) ? "good" : "damaged";
  }

  #files(): { readonly name: string; readonly file: string }[] {
    const root = mediaFolder(this.data);
    if (!existsSync(root)) return [];
    return readdirSync(root, { withFileTypes: true }).flatMap((entry) => {
      if (!entry.isDirectory()) return [];
      const folder = path.join(root, entry.name);
      return readdirSync(folder).map((name) => ({ name, file: path.join(folder, name) }));
    });
  }

  /** Hashes of all originals. */
  originals(): string[] {
    return this.#files().flatMap(({ name }) => {
      const known = mediaFileOf(name);
      return known?.kind === "original" ? [known.hash] : [];
    });
  }

  /** Removes parts, caches of an older version, and caches whose original is gone. Call it when nothing is being written. */
  sweep(): void {
    const files = this.#files();
    const originals = new Set(this.originals());
    for (const { name, file } of files) {
      const known = mediaFileOf(name);
      const left =
        known?.kind === "outdated" ||
        ((known?.kind === "cache" || known?.kind === "source") && !originals.has(known.hash));
      if (left || name.endsWith(PART)) rmSync(file, { force: true });
    }
  }

  /** Removes a recording's file and all that was made from it. Returns the bytes that are free now. */
  remove(hash: string): number {
    let bytes = 0;
    const folder = path.dirname(this.original(hash));
    for (const name of existsSync(folder) ? readdirSync(folder) : []) {
      if (mediaFileOf(name)?.hash !== hash) continue;
      const file = path.join(folder, name);
      bytes += lstatSync(file).size;
      rmSync(file, { force: true });
    }
    return bytes;
  }

  /** Bytes of originals with what they were decoded from, by hash, and of all caches together. */
  usage(): { readonly originals: ReadonlyMap<string, number>; readonly caches: number } {
    const originals = new Map<string, number>();
    let caches = 0;
    for (const { name, file } of this.#files()) {
      const size = lstatSync(file, { throwIfNoEntry: false })?.size ?? 0;
      const known = mediaFileOf(name);
      if (known?.kind === "original" || known?.kind === "source")
        originals.set(known.hash, size + (originals.get(known.hash) ?? 0));
      else caches += size;
    }
    return { originals, caches };
  }
}
