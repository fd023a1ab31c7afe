// How the edit screen is laid out, by the user's choice; kept in the browser.
const KEY = "wring.layout";

/** Height of the bench when it shows its title alone, and at first. */
export const BENCH_LEAST = 38;
export const BENCH_STANDARD = 310;
/** Room that the timeline keeps. */
const ABOVE = 260;

export class Layout {
  /** Height of the bench in pixels. */
  bench = $state(BENCH_STANDARD);

  constructor() {
    const kept = Number(localStorage.getItem(KEY));
    if (Number.isFinite(kept) && kept >= BENCH_LEAST) this.bench = kept;
  }

  /** Most that the bench may take in a window of a height. */
  most(windowHeight: number): number {
    return Math.max(BENCH_STANDARD, windowHeight - ABOVE);
  }

  /** Call in an effect: keeps what is chosen. */
  keep(): void {
    localStorage.setItem(KEY, String(this.bench));
  }
}
