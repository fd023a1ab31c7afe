// What a column of pixels shows of a recording: the least and the largest value of its stretch of time.
import { OVERVIEW_SCALE } from "./overview";
import { curveAt } from "./sampleCurve";

/** Values of columns, -1 to 1, least and largest. Where the recording has nothing the least is above the largest. */
export class Columns {
  readonly low: Float32Array;
  readonly high: Float32Array;

  constructor(readonly count: number) {
    this.low = new Float32Array(count);
    this.high = new Float32Array(count);
    this.clear();
  }

  clear(): void {
    this.low.fill(2);
    this.high.fill(-2);
  }

  take(column: number, low: number, high: number): void {
    if (low < this.low[column]) this.low[column] = low;
    if (high > this.high[column]) this.high[column] = high;
  }
}

/** Where columns lie: column c shows frames [from + c · framesPerColumn, from + (c + 1) · framesPerColumn). */
export interface ColumnGrid {
  readonly from: number;
  readonly framesPerColumn: number;
}

/** Columns from bins of an overview. `first`: index of the first bin given; `size`: frames of a bin. */
export function columnsOfBins(
  out: Columns,
  { from, framesPerColumn }: ColumnGrid,
  bins: Int16Array,
  first: number,
  size: number
): void {
  const last = first + bins.length / 2;
  for (let c = 0; c < out.count; c++) {
    const begin = from + c * framesPerColumn;
    const start = Math.max(first, Math.floor(begin / size));
    const end = Math.min(last, Math.ceil((begin + framesPerColumn) / size));
    for (let b = start; b < end; b++)
      out.take(c, bins[2 * (b - first)] / OVERVIEW_SCALE, bins[2 * (b - first) + 1] / OVERVIEW_SCALE);
  }
}

/** Columns of one frame or more from a channel's samples; each reaches back to the sample before it, so that the line has no gaps. */
export function columnsOfSamples(
  out: Columns,
  { from, framesPerColumn }: ColumnGrid,
  samples: Float32Array,
  first: number
): void {
  const last = first + samples.length;
  for (let c = 0; c < out.count; c++) {
    const begin = from + c * framesPerColumn;
    const start = Math.max(first, Math.floor(begin));
    const end = Math.min(last, Math.ceil(begin + framesPerColumn) + 1);
    for (let i = start; i < end; i++) out.take(c, samples[i - first], samples[i - first]);
  }
}

/** Columns of less than a frame: the band-limited curve of a channel's samples, at both edges and in the middle of each. */
export function columnsOfCurve(
  out: Columns,
  { from, framesPerColumn }: ColumnGrid,
  samples: Float32Array,
  first: number,
  recordingFrames: number
): void {
  let before = curveAt(samples, from - first);
  for (let c = 0; c < out.count; c++) {
    const begin = from + c * framesPerColumn;
    const middle = curveAt(samples, begin + framesPerColumn / 2 - first);
    const after = curveAt(samples, begin + framesPerColumn - first);
    if (begin + framesPerColumn > 0 && begin < recordingFrames)
      out.take(c, Math.min(before, middle, after), Math.max(before, middle, after));
    before = after;
  }
}
