// Tiles of waveforms: bitmaps that a worker makes and the page puts together. A tile is TILE_WIDTH columns of a recording at a zoom.
import { OVERVIEW_BINS, overviewLevel } from "$lib/core/audio/overview";

/** Columns of a tile, in device pixels. */
export const TILE_WIDTH = 512;
/** Frames of a column from which on overviews are read instead of samples. */
export const FROM_BINS = OVERVIEW_BINS[0];
/** Device pixels of a sample from which on each is drawn as a dot. */
export const DOT_PIXELS = 4;

/** What a waveform looks like: tiles of one look fit together. */
export interface WaveLook {
  readonly recordingId: string;
  /** Frames of the recording at the project's rate. */
  readonly frames: number;
  /** Height in device pixels. */
  readonly height: number;
  /** Factor of the samples. */
  readonly gain: number;
  /** As a little-endian pixel, 0xAABBGGRR. */
  readonly colour: number;
}

/** A tile of a look: column c shows frames from (index · TILE_WIDTH + c) · framesPerPixel on. */
export interface TileWish extends WaveLook {
  readonly key: string;
  readonly framesPerPixel: number;
  readonly index: number;
}

export function lookKey({ recordingId, height, gain, colour }: WaveLook): string {
  return `${recordingId}/${height}/${gain.toPrecision(4)}/${colour.toString(16)}`;
}

export function tileKey(look: string, framesPerPixel: number, index: number): string {
  return `${look}/${framesPerPixel}/${index}`;
}

/** While the zoom changes, tiles of half octaves are stretched: the next coarser zoom at which there are tiles, so that no peak gets lost. */
export function halfOctave(framesPerPixel: number): number {
  return 2 ** (Math.ceil(2 * Math.log2(framesPerPixel)) / 2);
}

/** The overview level for a zoom: at most five bins a column; -1: the samples themselves. */
export function levelFor(framesPerPixel: number): number {
  return framesPerPixel < FROM_BINS ? -1 : overviewLevel(framesPerPixel);
}
