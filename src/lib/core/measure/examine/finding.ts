// What is wrong with a recording, as it is told: a number, how sure it is, where, and what mends it.
import type { Params } from "../../effects/description";

export type FindingKind =
  | "low"
  | "clipped"
  | "offset"
  | "hum"
  | "noise"
  | "clicks"
  | "sibilance"
  | "plosives"
  | "dead-side"
  | "inverted"
  | "cancels"
  | "band-limit"
  | "reverberation";

/** Seconds. */
export interface FindingPlace {
  readonly from: number;
  readonly to: number;
}

export interface Finding {
  readonly kind: FindingKind;
  readonly certainty: "sure" | "likely" | "possible";
  readonly value: number;
  readonly unit: string;
  /** One sentence for people. */
  readonly text: string;
  /** The first of them; empty where it concerns all of the sound. */
  readonly places: readonly FindingPlace[];
  /** What mends it, with settings computed from the numbers. */
  readonly step?: { readonly effect: string; readonly params: Params };
}

/** Listens to a sound for one subject. */
export interface Look {
  /** Takes n ≤ 512 frames. l, r: addresses, left as they are. */
  push(l: number, r: number, n: number): void;
  finish(): Finding[];
  release(): void;
}

/** Places that are told at most. */
export const MOST_PLACES = 20;
