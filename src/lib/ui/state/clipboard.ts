import type { Clip, Step } from "$lib/core/session/schema";

/** What was copied: parts of clips, with their steps, as they lay. */
export interface Clipboard {
  readonly parts: readonly { readonly clip: Clip; readonly steps: readonly Step[] }[];
  /** Where the first one began, and the last ended. */
  readonly from: number;
  readonly to: number;
}
