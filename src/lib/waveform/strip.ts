// The whole programme as one narrow waveform: of everything that sounds at a time, the loudest.
import { Columns, columnsOfBins } from "$lib/core/audio/columns";
import { OVERVIEW_BINS, overviewLevel } from "$lib/core/audio/overview";
import type { Outlook, Pieces } from "./pieces";

/** A stretch of a recording that sounds somewhere in the programme; in frames. */
export interface StripClip {
  readonly recordingId: string;
  /** Frames of the recording. */
  readonly frames: number;
  readonly offset: number;
  readonly start: number;
  readonly length: number;
  /** Factor of its samples. */
  readonly gain: number;
}

export interface StripWish {
  readonly clips: readonly StripClip[];
  /** Columns, in device pixels, of this many frames each. */
  readonly width: number;
  readonly framesPerColumn: number;
}

/**
 * Peaks of the programme's columns, 0 to 1 for the highest of all; what is not there yet is left out.
 * @returns whether something is missing still
 */
export function paintStrip(
  { clips, width, framesPerColumn }: StripWish,
  pieces: Pieces,
  out: Float32Array
): Outlook | undefined {
  let outlook: Outlook | undefined;
  const level = Math.max(0, overviewLevel(framesPerColumn));
  const size = OVERVIEW_BINS[level];
  out.fill(0);
  for (const { recordingId, frames, offset, start, length, gain } of clips) {
    const first = Math.max(0, Math.floor(start / framesPerColumn));
    const columns = new Columns(
      Math.max(0, Math.min(width, Math.ceil((start + length) / framesPerColumn)) - first)
    );
    const from = offset + first * framesPerColumn - start;
    const bins = pieces.bins(
      recordingId,
      frames,
      level,
      Math.floor(offset / size),
      Math.ceil((offset + length) / size)
    );
    if (typeof bins === "string") {
      if (outlook !== "coming") outlook = bins;
      continue;
    }
    for (const data of bins.data) columnsOfBins(columns, { from, framesPerColumn }, data, bins.first, size);
    for (let c = 0; c < columns.count; c++) {
      const peak = Math.max(columns.high[c], -columns.low[c]) * gain;
      if (peak > out[first + c]) out[first + c] = peak;
    }
  }
  const top = out.reduce((most, value) => Math.max(most, value), 0);
  if (top > 0) for (let c = 0; c < width; c++) out[c] /= top;
  return outlook;
}
