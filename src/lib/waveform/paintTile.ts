// The pixels of a tile: its columns as vertical lines of one colour on nothing.
import {
  Columns,
  columnsOfBins,
  columnsOfCurve,
  columnsOfSamples,
  type ColumnGrid
} from "$lib/core/audio/columns";
import { OVERVIEW_BINS } from "$lib/core/audio/overview";
import { CURVE_MARGIN } from "$lib/core/audio/sampleCurve";
import type { Outlook, Pieces } from "./pieces";
import { DOT_PIXELS, levelFor, TILE_WIDTH, type TileWish } from "./tile";

/** Radius of a sample's dot in device pixels, and thickness of the curve. */
const DOT = 2;
const LINE = 2;

const columns = new Columns(TILE_WIDTH);

/** Fills rows of one column. */
function fill(
  pixels: Uint32Array,
  height: number,
  x: number,
  top: number,
  bottom: number,
  colour: number
): void {
  const end = Math.min(height, bottom);
  for (let y = Math.max(0, top); y < end; y++) pixels[y * TILE_WIDTH + x] = colour;
}

function paintColumns(pixels: Uint32Array, { height, gain, colour }: TileWish, least: number): void {
  const half = height / 2;
  for (let x = 0; x < TILE_WIDTH; x++) {
    if (columns.low[x] > columns.high[x]) continue;
    const top = Math.round(half - Math.min(1, columns.high[x] * gain) * half);
    const bottom = Math.round(half - Math.max(-1, columns.low[x] * gain) * half);
    const more = Math.max(0, least - (bottom - top));
    // At the edges a thin line stays inside.
    const from = Math.max(0, Math.min(height - least, top - (more >> 1)));
    fill(pixels, height, x, from, Math.max(from + least, bottom), colour);
  }
}

function paintDots(
  pixels: Uint32Array,
  { height, gain, colour, framesPerPixel }: TileWish,
  from: number,
  samples: Float32Array,
  first: number
): void {
  const half = height / 2;
  for (let i = 0; i < samples.length; i++) {
    const x = Math.round((first + i - from) / framesPerPixel);
    const y = Math.round(half - Math.max(-1, Math.min(1, samples[i] * gain)) * half);
    for (let column = x - DOT; column <= x + DOT; column++)
      if (column >= 0 && column < TILE_WIDTH) fill(pixels, height, column, y - DOT, y + DOT + 1, colour);
  }
}

/**
 * Paints a tile.
 * @param pixels TILE_WIDTH × the wish's height, cleared
 * @returns what of its sound is not there yet; undefined when it is painted
 */
export function paintTile(wish: TileWish, pieces: Pieces, pixels: Uint32Array): Outlook | undefined {
  const { recordingId, frames, framesPerPixel, index } = wish;
  const from = index * TILE_WIDTH * framesPerPixel;
  const to = from + TILE_WIDTH * framesPerPixel;
  const grid: ColumnGrid = { from, framesPerColumn: framesPerPixel };
  columns.clear();
  const level = levelFor(framesPerPixel);
  if (level >= 0) {
    const size = OVERVIEW_BINS[level];
    const found = pieces.bins(recordingId, frames, level, Math.floor(from / size), Math.ceil(to / size));
    if (typeof found === "string") return found;
    for (const bins of found.data) columnsOfBins(columns, grid, bins, found.first, size);
    paintColumns(pixels, wish, 1);
    return undefined;
  }
  const margin = CURVE_MARGIN + Math.ceil(DOT * framesPerPixel);
  const found = pieces.samples(recordingId, frames, Math.floor(from) - margin, Math.ceil(to) + margin);
  if (typeof found === "string") return found;
  for (const samples of found.data)
    if (framesPerPixel >= 1) columnsOfSamples(columns, grid, samples, found.first);
    else columnsOfCurve(columns, grid, samples, found.first, frames);
  paintColumns(pixels, wish, framesPerPixel >= 1 ? 1 : LINE);
  if (framesPerPixel * DOT_PIXELS <= 1)
    for (const samples of found.data) paintDots(pixels, wish, from, samples, found.first);
  return undefined;
}
