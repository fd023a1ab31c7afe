// What a clip's chain hears. A clip that was cut off another sounds as it did before the cut: its chain hears on what lies beyond.
//
//   recording   ──────────────────────────────────
//   heard            ├───────────────────┤           before the cut: the clip's window
//   clip                      ▐██████████▌           after it: one of the pieces
import type { Clip } from "./schema";

/** Frames of a recording, `to` behind the last. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/**
 * The stretch of its recording that a clip's chain hears: the window, and what the clip was cut off, as long as the window lies at it. One that
 * rings out hears silence after its end.
 */
export function chainStretch({
  offset,
  length,
  heard,
  ringOut
}: Pick<Clip, "offset" | "length" | "heard" | "ringOut">): Stretch {
  const own = { from: offset, to: offset + length };
  if (!heard || heard.to < own.from || heard.from > own.to) return own;
  return { from: Math.min(own.from, heard.from), to: ringOut ? own.to : Math.max(own.to, heard.to) };
}

/** Whether a clip's chain hears more than the clip lets be heard. */
export function hearsBeyond(clip: Clip): boolean {
  const { from, to } = chainStretch(clip);
  return from < clip.offset || to > clip.offset + clip.length;
}
