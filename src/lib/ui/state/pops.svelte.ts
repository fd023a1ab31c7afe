import type { Pop } from "$lib/core/joins/check";

/** What the join check found, and which of it one is at. */
export class Pops {
  /** The loudest first; null before a check. */
  found = $state.raw<readonly Pop[] | null>(null);
  /** Which of them one is at. */
  at = $state(0);
  /** Share that is done of a check; null: none is under way. */
  share = $state<number | null>(null);
  /** How many were found at first. */
  first = $state(0);
  /** Whether the list is open. */
  open = $state(false);

  get current(): Pop | undefined {
    return this.found?.[this.at];
  }

  set(found: readonly Pop[]): void {
    this.found = found;
    this.first = found.length;
    this.at = 0;
  }

  /** Takes those away that are mended. */
  without(mended: readonly Pop[]): void {
    const gone = new Set(mended);
    this.found = (this.found ?? []).filter((pop) => !gone.has(pop));
    this.at = Math.min(this.at, Math.max(0, this.found.length - 1));
  }
}
