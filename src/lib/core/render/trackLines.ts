// What a track's lines make of its sound: a gain and a pan that change over the timeline.
import type { Envelope } from "../audio/envelope";
import { kernels } from "../kernels/instance";
import { alike } from "../session/equal";
import type { Track } from "../session/schema";
import { alongLine, lineBlock } from "./clipShape";

/** Balances n frames by a pan line; `at` is the place of the first on the line. */
function panBlock(line: Envelope, at: number, l: number, r: number, n: number): void {
  alongLine(line, at, n, (values, m, done) => kernels.applyPans(l + done * 4, r + done * 4, values, m));
}

export type TrackLines = Pick<Track, "gainLine" | "panLine">;

/** The lines of a track; undefined when it has none. */
export function linesOf({ gainLine, panLine }: Track): TrackLines | undefined {
  if (!gainLine && !panLine) return undefined;
  return { ...(gainLine ? { gainLine } : {}), ...(panLine ? { panLine } : {}) };
}

export function sameLines(a: TrackLines | undefined, b: TrackLines | undefined): boolean {
  return alike(a ?? null, b ?? null);
}

/** Applies lines to n frames that begin at a frame of the timeline. */
export function linesBlock(
  { gainLine, panLine }: TrackLines,
  at: number,
  l: number,
  r: number,
  n: number
): void {
  if (gainLine) lineBlock(gainLine, at, l, r, n);
  if (panLine) panBlock(panLine, at, l, r, n);
}
