// What follows a clip's chain: its gain, its gain line, its fades.
import { BLOCK } from "../audio/block";
import { curveOf, type Envelope } from "../audio/envelope";
import { fadeBlock, fadeGainAt } from "../audio/fades";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { LINE_FLOOR_DB, type Clip } from "../session/schema";
import { dbToGain } from "../units/decibels";

export type ClipShape = Pick<Clip, "gainDb" | "line" | "offset" | "length" | "fadeIn" | "fadeOut">;

/** The shape of a clip that rings out: its closing fade lies before its chain. */
export function openShape<T extends ClipShape>(clip: T): T {
  return { ...clip, fadeOut: { ...clip.fadeOut, length: 0 } };
}

let lineValues: Buffer | undefined;

/**
 * Gives the values of a line over n frames to whoever applies them, a block at a time: `at` is the place of the first on the line, `values` the
 * address of m values, `done` the frames before them.
 */
export function alongLine(
  line: Envelope,
  at: number,
  n: number,
  apply: (values: number, m: number, done: number) => void
): void {
  lineValues ??= new Buffer(BLOCK * 8);
  const curve = curveOf(line);
  for (let done = 0; done < n; done += BLOCK) {
    const m = Math.min(BLOCK, n - done);
    const values = lineValues.f64;
    for (let i = 0; i < m; i++) values[i] = curve.at(at + done + i);
    apply(lineValues.ptr, m, done);
  }
}

/** Multiplies n frames by a gain line in decibels; `at` is the place of the first on the line. */
export function lineBlock(line: Envelope, at: number, l: number, r: number, n: number): void {
  alongLine(line, at, n, (values, m, done) =>
    kernels.applyLevels(l + done * 4, r + done * 4, values, m, LINE_FLOOR_DB)
  );
}

/** Gain of a line at a place, as it sounds. */
export function lineGain(line: Envelope, at: number): number {
  const db = curveOf(line).at(at);
  return db <= LINE_FLOOR_DB ? 0 : dbToGain(db);
}

/** Shapes n frames that begin `position` frames after the clip's start. */
export function shapeBlock(shape: ClipShape, position: number, l: number, r: number, n: number): void {
  if (shape.gainDb !== 0) {
    const gain = dbToGain(shape.gainDb);
    kernels.gain(l, n, gain);
    kernels.gain(r, n, gain);
  }
  if (shape.line) lineBlock(shape.line, shape.offset + position, l, r, n);
  fadeBlock(shape, position, l, r, n);
}

/** What a clip's gain line and fades make of its level at a position in frames after its start, for drawing. */
export function shapeGainAt(shape: ClipShape, position: number): number {
  const line = shape.line ? lineGain(shape.line, shape.offset + position) : 1;
  return line * fadeGainAt(shape, position);
}
