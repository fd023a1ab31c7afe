import type { Moving, Shift } from "./moving";

/** Clips that are being pulled over the lanes, and how far they have come. The document changes when they are let go. */
export interface Pulled {
  readonly moving: Moving;
  readonly ids: ReadonlySet<string>;
  readonly shift: Shift;
}

export const NOTHING: ReadonlySet<string> = new Set();

export class Pull {
  now = $state.raw<Pulled | null>(null);
  /** The clips alone: changes when a pull begins and when it ends. */
  readonly ids = $derived(this.now?.ids ?? NOTHING);
}
