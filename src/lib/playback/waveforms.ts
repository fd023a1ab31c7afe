// Waveform overviews for drawing: tiles are fetched as they are looked at and kept.
import { OVERVIEW_BINS } from "$lib/core/audio/overview";
import { CHUNK_FRAMES } from "$lib/core/render/chunkCache";

const TILE_BINS = 4096;
const MAX_TILES = 600;
const AGAIN_MS = 5000;

/** Peaks over a stretch: least and largest value, -1 to 1. */
export interface Peaks {
  low: number;
  high: number;
}

export class Waveforms {
  readonly #tiles = new Map<string, Int8Array | Float32Array>();
  readonly #coming = new Set<string>();
  /** Tiles that could not be had, with the time from which on they are asked for again. */
  readonly #missing = new Map<string, number>();

  /** @param onarrival called when something that was asked for has come: draw again */
  constructor(
    private readonly sampleRate: number,
    private readonly onarrival: () => void
  ) {}

  /** The overview level that suits a zoom; -1: the samples themselves. */
  levelFor(framesPerPixel: number): number {
    let level = -1;
    OVERVIEW_BINS.forEach((size, i) => {
      if (framesPerPixel >= size) level = i;
    });
    return level;
  }

  /**
   * Peaks of frames [from, to) of a recording at a level. Returns undefined when the tile has not come yet; asks for it then.
   */
  peaks(id: string, level: number, from: number, to: number, out: Peaks): Peaks | undefined {
    const size = level < 0 ? 1 : OVERVIEW_BINS[level];
    const perTile = level < 0 ? CHUNK_FRAMES : TILE_BINS;
    let bin = Math.max(0, Math.floor(from / size));
    const end = Math.max(bin + 1, Math.ceil(to / size));
    out.low = 1;
    out.high = -1;
    while (bin < end) {
      const tile = Math.floor(bin / perTile);
      const data = this.#tile(id, level, tile);
      if (!data) return undefined;
      const stop = Math.min(end, (tile + 1) * perTile);
      for (let i = bin - tile * perTile; bin < stop; bin++, i++) this.#take(data, i, out);
    }
    if (out.low > out.high) out.low = out.high = 0;
    return out;
  }

  #take(data: Int8Array | Float32Array, i: number, out: Peaks): void {
    if (data instanceof Float32Array) {
      // Both channels of the samples lie one after the other.
      const half = data.length / 2;
      out.low = Math.min(out.low, data[i] ?? 0, data[half + i] ?? 0);
      out.high = Math.max(out.high, data[i] ?? 0, data[half + i] ?? 0);
    } else if (2 * i + 1 < data.length) {
      out.low = Math.min(out.low, data[2 * i] / 127);
      out.high = Math.max(out.high, data[2 * i + 1] / 127);
    }
  }

  #tile(id: string, level: number, tile: number): Int8Array | Float32Array | undefined {
    const key = `${id}/${level}/${tile}`;
    const found = this.#tiles.get(key);
    if (!found && !this.#coming.has(key) && (this.#missing.get(key) ?? 0) < performance.now())
      // Whoever looks at it again later asks again.
      this.#fetch(key, id, level, tile).catch(() => this.#missing.set(key, performance.now() + AGAIN_MS));
    return found;
  }

  async #fetch(key: string, id: string, level: number, tile: number): Promise<void> {
    this.#coming.add(key);
    try {
      const base = `/api/recordings/${id}`;
      const url =
        level < 0
          ? `${base}/chunks/${this.sampleRate}/${tile}`
          : `${base}/overview/${this.sampleRate}/${level}?from=${tile * TILE_BINS}&bins=${TILE_BINS}`;
      const answer = await fetch(url);
      if (!answer.ok) throw new Error(`The waveform was answered with ${answer.status}.`);
      const bytes = await answer.arrayBuffer();
      if (this.#tiles.size >= MAX_TILES) this.#tiles.delete(this.#tiles.keys().next().value as string);
      this.#tiles.set(key, level < 0 ? new Float32Array(bytes) : new Int8Array(bytes));
      this.onarrival();
    } finally {
      this.#coming.delete(key);
    }
  }
}
