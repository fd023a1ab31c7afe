// The rows of files on their way. However many there are and however fast they change: what is shown of them changes a few times a second.
export type ImportState = "waiting" | "sending" | "decoding" | "done" | "same" | "refused" | "cancelled";

/** One file, as its row shows it. */
export interface ImportRow {
  readonly key: string;
  readonly name: string;
  readonly state: ImportState;
  /** Share of what it is at, 0 to 1. */
  readonly progress: number;
  /** Why it was refused, or what it is the same as. */
  readonly reason: string | null;
  /** Whether some of it can be read, and taken when asked for. */
  readonly torn: boolean;
  /** The recording that it has become, or is the same as. */
  readonly recordingId: string | null;
}

const NEW_ROW = {
  name: "",
  state: "waiting",
  progress: 0,
  reason: null,
  torn: false,
  recordingId: null
} as const;

/** So many ms lie between two changes of what is shown, at least; longer where there are many files, of which no one is followed. */
const SHOWN_EVERY_MS = 100;
const MANY_SHOWN_EVERY_MS = 400;
const MANY = 50;

/** Whether a file has not ended. */
export function isOpen({ state }: ImportRow): boolean {
  return state === "waiting" || state === "sending" || state === "decoding";
}

export class ImportRows {
  /** As they are shown. */
  shown = $state.raw<readonly ImportRow[]>([]);
  readonly #rows = new Map<string, ImportRow>();
  #open = 0;
  #due: ReturnType<typeof setTimeout> | undefined;
  #shownAt = -Infinity;

  /** How many have not ended. */
  get open(): number {
    return this.#open;
  }

  get(key: string): ImportRow | undefined {
    return this.#rows.get(key);
  }

  /** Those that have not ended, in their order. */
  get unfinished(): ImportRow[] {
    return [...this.#rows.values()].filter(isOpen);
  }

  /** Changes a row, or begins one. */
  put(key: string, change: Partial<ImportRow>): void {
    const before = this.#rows.get(key);
    const after = { ...(before ?? NEW_ROW), key, ...change };
    this.#open += Number(isOpen(after)) - Number(before !== undefined && isOpen(before));
    this.#rows.set(key, after);
    this.#changed();
  }

  remove(key: string): void {
    const known = this.#rows.get(key);
    if (!known) return;
    if (isOpen(known)) this.#open--;
    this.#rows.delete(key);
    this.#changed();
  }

  /** Takes away those that are not wanted any more. */
  keep(wanted: (row: ImportRow) => boolean): void {
    for (const row of [...this.#rows.values()]) if (!wanted(row)) this.remove(row.key);
  }

  #changed(): void {
    if (this.#due !== undefined) return;
    const every = this.#rows.size > MANY ? MANY_SHOWN_EVERY_MS : SHOWN_EVERY_MS;
    const wait = this.#shownAt + every - performance.now();
    // Those that change together are shown together.
    this.#due = setTimeout(
      () => {
        this.#due = undefined;
        this.#shownAt = performance.now();
        this.shown = [...this.#rows.values()];
      },
      Math.max(0, wait)
    );
  }
}
