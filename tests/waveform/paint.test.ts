import { describe, expect, it } from "vitest";
import { coarser, OVERVIEW_BINS, overviewValue } from "../../src/lib/core/audio/overview";
import { paintTile } from "../../src/lib/waveform/paintTile";
import { paintStrip } from "../../src/lib/waveform/strip";
import { Pieces } from "../../src/lib/waveform/pieces";
import { lookKey, TILE_WIDTH, tileKey, type TileWish } from "../../src/lib/waveform/tile";
import { CHUNK_FRAMES } from "../../src/lib/core/render/chunkCache";

const FRAMES = 200000;
const COLOUR = 0xff112233;
const HEIGHT = 100;

/** What a server with one mono recording answers. */
function answers(samples: Float32Array) {
  const levels: Int16Array[] = [];
  const first = new Int16Array(2 * Math.ceil(samples.length / OVERVIEW_BINS[0]));
  for (let b = 0; b < first.length / 2; b++) {
    const part = samples.subarray(b * 16, (b + 1) * 16);
    first[2 * b] = overviewValue(Math.min(...part));
    first[2 * b + 1] = overviewValue(Math.max(...part));
  }
  levels.push(first);
  for (let level = 1; level < OVERVIEW_BINS.length; level++) {
    const below = levels[level - 1];
    const out = new Int16Array(2 * Math.ceil(below.length / 8));
    coarser(below, below.length / 2, out);
    levels.push(out);
  }
  const asked: string[] = [];
  const fetchBytes = (path: string): Promise<ArrayBuffer> => {
    asked.push(path);
    const url = new URL(path, "http://localhost");
    const [, , , , kind, , last] = url.pathname.split("/");
    if (kind === "chunks") {
      const out = new Float32Array(2 * CHUNK_FRAMES);
      const part = samples.subarray(Number(last) * CHUNK_FRAMES, (Number(last) + 1) * CHUNK_FRAMES);
      out.set(part);
      out.set(part, CHUNK_FRAMES);
      return Promise.resolve(out.buffer);
    }
    const from = Number(url.searchParams.get("from")) * 2;
    const bins = levels[Number(last)].slice(from, from + Number(url.searchParams.get("bins")) * 2);
    return Promise.resolve(bins.buffer);
  };
  return { asked, fetchBytes };
}

const wishOf = (framesPerPixel: number, index = 0, gain = 1): TileWish => {
  const look = { recordingId: "r", frames: FRAMES, height: HEIGHT, gain, colour: COLOUR };
  return { ...look, key: tileKey(lookKey(look), framesPerPixel, index), framesPerPixel, index };
};

/** Paints as soon as the sound has come; rows that are filled in each column. */
async function painted(
  wish: TileWish,
  fetchBytes: (path: string) => Promise<ArrayBuffer>
): Promise<{ top: number; rows: number }[]> {
  const pieces = new Pieces(48000, fetchBytes, () => undefined);
  const pixels = new Uint32Array(TILE_WIDTH * HEIGHT);
  for (let tries = 0; paintTile(wish, pieces, pixels) !== undefined; tries++) {
    if (tries > 100) throw new Error("Its sound does not come.");
    await new Promise((resolve) => setTimeout(resolve));
  }
  return Array.from({ length: TILE_WIDTH }, (_, x) => {
    const rows = Array.from({ length: HEIGHT }, (__, y) => y).filter(
      (y) => pixels[y * TILE_WIDTH + x] === COLOUR
    );
    return { top: rows[0] ?? -1, rows: rows.length };
  });
}

const sine = (amplitude: number, period: number) =>
  Float32Array.from({ length: FRAMES }, (_, i) => amplitude * Math.sin((2 * Math.PI * i) / period));

describe("a tile", () => {
  it.each([16, 100, 300])("shows the peaks of its sound, %d frames a column", async (framesPerPixel) => {
    const { fetchBytes } = answers(sine(0.5, 8));
    const columns = await painted(wishOf(framesPerPixel), fetchBytes);
    for (const { top, rows } of columns.slice(2, 500)) {
      expect(Math.abs(top - 25)).toBeLessThanOrEqual(1);
      expect(Math.abs(rows - 50)).toBeLessThanOrEqual(2);
    }
  });

  it("shows a sound of -60 dBFS when it is drawn 60 dB taller", async () => {
    const { fetchBytes } = answers(sine(0.001, 20));
    const [plain, taller] = [
      await painted(wishOf(64), fetchBytes),
      await painted(wishOf(64, 0, 1000), fetchBytes)
    ];
    expect(plain[100].rows).toBe(1);
    expect(taller[100].rows).toBeGreaterThan(96);
  });

  it("ends where its recording ends", async () => {
    const { fetchBytes } = answers(sine(0.5, 20));
    const columns = await painted(wishOf(1000), fetchBytes);
    expect(columns[199].rows).toBeGreaterThan(40);
    expect(columns[201].rows).toBe(0);
  });

  it("shows the curve between the samples at the deepest zoom: peaks that no sample has", async () => {
    // At a quarter of the rate and an eighth of a turn off, samples reach 0.707 of the peak.
    const tone = Float32Array.from(
      { length: FRAMES },
      (_, i) => 0.8 * Math.sin((Math.PI * i) / 2 + Math.PI / 4)
    );
    const { fetchBytes } = answers(tone);
    const columns = await painted(wishOf(1 / 16, 20), fetchBytes);
    const tops = columns.slice(64).map(({ top }) => top);
    expect(Math.min(...tops)).toBeGreaterThanOrEqual(50 - 0.8 * 50 - 2);
    expect(Math.min(...tops)).toBeLessThanOrEqual(50 - 0.8 * 50 + 2);
  });

  it("reads no more than two pieces, and what it has read once is not asked for again", async () => {
    const { asked, fetchBytes } = answers(sine(0.5, 20));
    await painted(wishOf(64, 1), fetchBytes);
    expect(asked.length).toBeLessThanOrEqual(2);
    const pieces = new Pieces(48000, fetchBytes, () => undefined);
    expect(pieces.bins("r", FRAMES, 1, 0, 500)).toBe("coming");
    await new Promise((resolve) => setTimeout(resolve));
    const before = asked.length;
    expect(pieces.bins("r", FRAMES, 1, 0, 500)).toMatchObject({ first: 0 });
    expect(asked).toHaveLength(before);
  });

  it("says when its sound cannot be had", async () => {
    const pieces = new Pieces(
      48000,
      () => Promise.reject(new Error("gone")),
      () => undefined
    );
    expect(pieces.samples("r", FRAMES, 0, 100)).toBe("coming");
    await new Promise((resolve) => setTimeout(resolve));
    expect(pieces.samples("r", FRAMES, 0, 100)).toBe("failed");
  });

  it("keeps pieces within their bytes", async () => {
    const { asked, fetchBytes } = answers(sine(0.5, 20));
    const pieces = new Pieces(48000, fetchBytes, () => undefined, 2 * CHUNK_FRAMES * 8);
    for (const chunk of [0, 1, 2]) {
      pieces.samples("r", FRAMES, chunk * CHUNK_FRAMES, chunk * CHUNK_FRAMES + 10);
      await new Promise((resolve) => setTimeout(resolve));
    }
    expect(asked).toHaveLength(3);
    expect(pieces.samples("r", FRAMES, 2 * CHUNK_FRAMES, 2 * CHUNK_FRAMES + 10)).not.toBe("coming");
    expect(pieces.samples("r", FRAMES, 0, 10)).toBe("coming");
  });
});

describe("the programme's strip", () => {
  it("shows of everything that sounds at a time the loudest, the loudest of all at full height", async () => {
    const { fetchBytes } = answers(sine(0.5, 20));
    const pieces = new Pieces(48000, fetchBytes, () => undefined);
    const clip = { recordingId: "r", frames: FRAMES, offset: 0, length: 50000 };
    const clips = [
      { ...clip, start: 0, gain: 0.5 },
      { ...clip, start: 0, gain: 1 },
      { ...clip, start: 100000, gain: 0.5 }
    ];
    const out = new Float32Array(200);
    const paint = () => paintStrip({ clips, width: 200, framesPerColumn: 1000 }, pieces, out);
    expect(paint()).toBe("coming");
    await new Promise((resolve) => setTimeout(resolve));
    expect(paint()).toBeUndefined();
    expect(out[20]).toBeCloseTo(1, 2);
    expect(out[70]).toBe(0);
    expect(out[120]).toBeCloseTo(0.5, 2);
    expect(out[180]).toBe(0);
  });
});
