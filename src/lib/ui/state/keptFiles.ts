// Files that are kept in the browser until they are sent: an upload goes on after the page was loaded anew.
import { createStore, delMany, entries, setMany } from "idb-keyval";

/** So many files are put into the browser's store at once. */
const STORED_AT_ONCE = 2;
/** Between two of these there is room for other things: the browser may hold the page up while it stores. */
const STORE_PAUSE_MS = 30;
/** While others wait, files that need not be kept any more are taken out of the browser's store together, after this. */
const FORGOTTEN_AFTER_MS = 500;

export class KeptFiles<T> {
  readonly #store = createStore("wring-uploads", "files");
  readonly #storing = new Map<string, Promise<void>>();
  /** Keys of files in the browser's store. */
  readonly #kept = new Set<string>();
  /** Keys of files that are to be taken out of it. */
  #forgotten: string[] = [];

  /** @param busy whether others wait to be sent */
  constructor(private readonly busy: () => boolean) {}

  /** All that is kept, of every project. */
  async all(): Promise<[string, T][]> {
    const known = await entries<string, T>(this.#store);
    for (const [key] of known) this.#kept.add(key);
    return known;
  }

  /**
   * Keeps files until they are forgotten. The browser may take its time; without it an upload only does not survive a reload. The last to be sent
   * come first: the others are often sent before it is their turn.
   */
  keep(files: readonly (readonly [string, T])[]): void {
    let stored = Promise.resolve();
    for (let end = files.length; end > 0; end -= STORED_AT_ONCE) {
      const some = files.slice(Math.max(0, end - STORED_AT_ONCE), end);
      stored = stored.then(() => this.#put(some)).catch(() => undefined);
      for (const [key] of some) this.#storing.set(key, stored);
    }
  }

  /** Puts files into the browser's store; those that have been sent meanwhile need not be. */
  async #put(some: readonly (readonly [string, T])[]): Promise<void> {
    await new Promise((resolve) => setTimeout(resolve, STORE_PAUSE_MS));
    const left = some.filter(([key]) => this.#storing.has(key));
    for (const [key] of left) this.#kept.add(key);
    if (left.length > 0) await setMany(left as [string, T][], this.#store);
  }

  /** A file need not be kept any more. */
  forget(key: string): void {
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
        // What cannot be forgotten is offered again, and known then.
        delMany(keys, this.#store).catch(() => undefined);
      },
      this.busy() ? FORGOTTEN_AFTER_MS : 0
    );
  }
}
