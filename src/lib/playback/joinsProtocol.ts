// Messages between the page and the worker that listens to joins.
import type { BestPlace } from "$lib/core/joins/bestPlace";
import type { Pop } from "$lib/core/joins/check";
import type { DocumentJson } from "$lib/core/session/document";
import type { ResolvedClip } from "$lib/core/session/lookup";

/** Two clips, and the stretch of the timeline in which they are compared. */
export interface Pair {
  readonly left: ResolvedClip;
  readonly right: ResolvedClip;
  readonly from: number;
  readonly to: number;
}

export type JoinsQuestion =
  /** How alike the two sounds of each pair are, -1 to 1. */
  | { readonly type: "correlations"; readonly pairs: readonly Pair[] }
  /** Where a crossfade of a length around a middle is best, within a reach. */
  | {
      readonly type: "best";
      readonly left: ResolvedClip;
      readonly right: ResolvedClip;
      readonly middle: number;
      readonly length: number;
      readonly reach: number;
    }
  /** Where all of these clips, or as many as there are, cross zero nearest to a frame. */
  | {
      readonly type: "zero";
      readonly clips: readonly ResolvedClip[];
      readonly at: number;
      readonly reach: number;
    }
  /** What pops on a whole timeline. */
  | { readonly type: "check"; readonly document: DocumentJson };

export interface JoinsAnswers {
  readonly correlations: readonly number[];
  readonly best: BestPlace | null;
  readonly zero: number | null;
  readonly check: readonly Pop[];
}

export interface ToJoins {
  readonly id: number;
  readonly sampleRate: number;
  readonly question: JoinsQuestion;
}

export type FromJoins =
  | { readonly type: "progress"; readonly id: number; readonly share: number }
  | { readonly type: "failed"; readonly id: number; readonly message: string }
  | { readonly type: "answer"; readonly id: number; readonly answer: JoinsAnswers[keyof JoinsAnswers] };
