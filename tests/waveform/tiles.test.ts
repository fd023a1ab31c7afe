import { describe, expect, it } from "vitest";
import type { ToPainter } from "../../src/lib/waveform/protocol";
import { halfOctave, lookKey, tileKey, type WaveLook } from "../../src/lib/waveform/tile";
import { AHEAD, Tiles } from "../../src/lib/waveform/tiles";

const look: WaveLook = { recordingId: "r", frames: 1e6, height: 40, gain: 1, colour: 0xff7d6351 };
const other: WaveLook = { ...look, gain: 2 };
const BYTES = 1000;
const HERE = { from: 0, to: 100 };

class Bitmap {
  closed = false;
  close(): void {
    this.closed = true;
  }
}

function started(leastBytes = 10 * BYTES) {
  const sent: ToPainter[] = [];
  const told: string[][] = [];
  const tiles = new Tiles<Bitmap>(
    { postMessage: (message) => sent.push(message), terminate: () => undefined },
    48000,
    leastBytes
  );
  tiles.onarrival = (lanes) => told.push([...lanes.keys()].sort());
  const wished = () => {
    const last = sent.filter((m) => m.type === "tiles").at(-1);
    return last?.type === "tiles" ? last.wishes.map((w) => w.key) : [];
  };
  const bring = (of: WaveLook, zoom: number, index: number) => {
    const bitmap = new Bitmap();
    tiles.hear({ type: "tile", key: tileKey(lookKey(of), zoom, index), bitmap, bytes: BYTES });
    return bitmap;
  };
  return { tiles, sent, told, wished, bring };
}

describe("tiles", () => {
  it("are asked for together, the newest list in place of the one before, and not twice", () => {
    const { tiles, sent, wished } = started();
    tiles.wish(look, 64, 0, "a", HERE);
    tiles.wish(look, 64, 1, "b", HERE);
    tiles.settle(0);
    expect(wished()).toEqual([0, 1].map((i) => tileKey(lookKey(look), 64, i)));
    const before = sent.length;
    tiles.settle(0);
    expect(sent).toHaveLength(before);
    tiles.forget("a");
    tiles.settle(0);
    expect(wished()).toEqual([tileKey(lookKey(look), 64, 1)]);
  });

  it("that may be looked at next come after those that are looked at", () => {
    const { tiles, wished } = started();
    tiles.wish(look, 64, 1, AHEAD, HERE);
    tiles.wish(look, 64, 0, "a", HERE);
    tiles.settle(0);
    expect(wished()).toEqual([0, 1].map((i) => tileKey(lookKey(look), 64, i)));
  });

  it("that come late have those lanes drawn anew that waited for them, and no others", () => {
    const { tiles, told, bring } = started();
    tiles.wish(look, 64, 0, "a", HERE);
    tiles.wish(look, 64, 0, "b", HERE);
    tiles.wish(look, 64, 1, "c", HERE);
    tiles.settle(0);
    const bitmap = bring(look, 64, 0);
    expect(told).toEqual([["a", "b"]]);
    expect(tiles.find(lookKey(look), 64, 0)).toBe(bitmap);
  });

  it("say where they were missing; what is out of sight is waited for no longer", () => {
    const { tiles, wished, bring } = started();
    const missing: unknown[] = [];
    tiles.onarrival = (lanes) => missing.push(...lanes.values());
    tiles.wish(look, 64, 0, "a", { from: 10, to: 20 });
    tiles.wish(look, 64, 0, "a", { from: 40, to: 50 });
    tiles.wish(look, 64, 1, "a", { from: 500, to: 600 });
    tiles.forget("a", { from: 0, to: 500 });
    tiles.settle(0);
    expect(wished()).toEqual([tileKey(lookKey(look), 64, 0)]);
    bring(look, 64, 0);
    expect(missing).toEqual([{ from: 10, to: 50 }]);
  });

  it("that nobody waits for any more are let go of at once", () => {
    const { tiles, told, bring } = started();
    tiles.wish(look, 64, 0, "a", HERE);
    tiles.forget("a");
    expect(bring(look, 64, 0).closed).toBe(true);
    expect(told).toEqual([]);
    expect(tiles.bytes).toBe(0);
  });

  it("are kept by when they were last used, within their bytes, and never fewer than three screens", () => {
    const { tiles, bring } = started(3 * BYTES);
    const bitmaps = [0, 1, 2, 3, 4].map((i) => {
      tiles.wish(look, 64, i, "a", HERE);
      return bring(look, 64, i);
    });
    tiles.find(lookKey(look), 64, 0);
    tiles.settle(0);
    expect(bitmaps.map((b) => b.closed)).toEqual([false, true, true, false, false]);
    expect([tiles.bytes, tiles.count]).toEqual([3 * BYTES, 3]);
    for (let i = 5; i < 20; i++) {
      tiles.wish(look, 64, i, "a", HERE);
      bring(look, 64, i);
    }
    tiles.settle(4 * BYTES);
    expect(tiles.bytes).toBe(12 * BYTES);
  });

  it("stand in for one another: of the same look and the nearest zoom first", () => {
    const { tiles, bring } = started();
    for (const [of, zoom] of [
      [look, 1024],
      [look, 128],
      [other, 64]
    ] as const) {
      tiles.wish(of, zoom, 0, "a", HERE);
      bring(of, zoom, 0);
    }
    expect(tiles.standIns(look, 64)).toEqual([
      { look: lookKey(look), framesPerPixel: 128 },
      { look: lookKey(look), framesPerPixel: 1024 },
      { look: lookKey(other), framesPerPixel: 64 }
    ]);
  });

  it("that cannot be had are not asked for again at once", () => {
    const { tiles, wished } = started();
    tiles.wish(look, 64, 0, "a", HERE);
    tiles.settle(0);
    tiles.hear({ type: "failed", key: tileKey(lookKey(look), 64, 0) });
    tiles.wish(look, 64, 0, "a", HERE);
    tiles.wish(look, 64, 1, "a", HERE);
    tiles.settle(0);
    expect(wished()).toEqual([tileKey(lookKey(look), 64, 1)]);
  });

  it("are stretched by no more than half an octave while the zoom changes, and never squeezed", () => {
    for (const zoom of [0.07, 0.9, 1, 3, 100, 12345]) {
      const stretch = halfOctave(zoom) / zoom;
      expect(stretch).toBeGreaterThanOrEqual(1 - 1e-12);
      expect(stretch).toBeLessThan(Math.SQRT2);
    }
  });
});
