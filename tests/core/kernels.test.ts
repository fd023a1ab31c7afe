// The kernels against plain TypeScript twins: slow, obvious, and independent of each other.
import { describe, expect, it, vi } from "vitest";
import { butterworth } from "../../src/lib/core/audio/matchedFilter";
import { overviewValue } from "../../src/lib/core/audio/overview";
import { BiquadCascade } from "../../src/lib/core/audio/biquadCascade";
import { MemorySpool } from "../../src/lib/core/audio/spool";
import { kernels } from "../../src/lib/core/kernels/instance";
import { Buffer } from "../../src/lib/core/kernels/memory";
import { eachBlock, noise, RATE } from "./signals";

function put(x: Float32Array): Buffer {
  const buffer = new Buffer(x.length * 4 + 64);
  buffer.f32.set(x);
  return buffer;
}

describe("kernels", () => {
  it("biquads are direct form I, bit for bit, for one to five sections", () => {
    for (let order = 1; order <= 8; order++) {
      const sections = butterworth("lowPass", order, 0.3);
      const [l, r] = [noise(700, 0.7, 1), noise(700, 0.7, 2)];
      const cascade = new BiquadCascade(sections);
      const got = [new Float32Array(700), new Float32Array(700)];
      eachBlock(l, r, 100, (a, b, n, at, block) => {
        cascade.process(a, b, n);
        got[0].set(block.left.f32.subarray(0, n), at);
        got[1].set(block.right.f32.subarray(0, n), at);
      });
      cascade.release();
      [l, r].forEach((input, c) => {
        let x = Float64Array.from(input);
        for (const [b0, b1, b2, a1, a2] of sections) {
          let [x1, x2, y1, y2] = [0, 0, 0, 0];
          x = x.map((v) => {
            const y = b0 * v + b1 * x1 + (b2 * x2 - a2 * y2) - a1 * y1;
            [x2, x1, y2, y1] = [x1, v, y1, y];
            return y;
          });
        }
        expect(got[c]).toEqual(Float32Array.from(x));
      });
    }
  });

  it("logarithm and power of two are those of the engine within 1e-9", () => {
    for (let x = 1e-12; x < 1e6; x *= 1.37)
      expect(Math.abs(kernels.log2(x) - Math.log2(x))).toBeLessThan(1e-9);
    for (let x = -60; x < 60; x += 0.37) expect(Math.abs(kernels.exp2(x) / 2 ** x - 1)).toBeLessThan(1e-9);
  });

  it("levels are sum, sum of squares and peak, for any length", () => {
    for (const n of [1, 5, 63, 64, 1000]) {
      const x = noise(n, 1, n);
      const data = put(x);
      const sums = new Buffer(16);
      const peak = kernels.levels(data.ptr, n, sums.ptr);
      expect(peak).toBe(x.reduce((a, v) => Math.max(a, Math.abs(v)), 0));
      expect(sums.f64[0]).toBeCloseTo(
        x.reduce((a, v) => a + v, 0),
        3
      );
      expect(sums.f64[1]).toBeCloseTo(
        x.reduce((a, v) => a + v * v, 0),
        3
      );
      data.release();
      sums.release();
    }
  });

  it("clipped runs are counted from the third sample on, across calls", () => {
    const x = Float32Array.of(1, 1, 0, 1, -1, 1, 1, 0.5, 1, 1);
    const data = put(x);
    for (const cut of [0, 4, 5, 6, 9]) {
      const run = new Buffer(4);
      const count =
        kernels.clippedRuns(data.ptr, cut, 0.999, 3, run.ptr) +
        kernels.clippedRuns(data.ptr + cut * 4, x.length - cut, 0.999, 3, run.ptr);
      expect(count).toBe(4);
      run.release();
    }
    data.release();
  });

  it("the overview of a bin is its least and largest sample of all channels, rounded outwards", () => {
    const x = noise(2001, 1.2);
    const data = put(x);
    const out = new Buffer(63 * 4);
    for (const channels of [1, 2])
      for (const size of [16, 256]) {
        kernels.overview(data.ptr, 4000, channels, 1001, size, out.ptr);
        for (let bin = 0; bin < Math.ceil(1001 / size); bin++) {
          const part = [0, 1000]
            .slice(0, channels)
            .flatMap((c) => [...x.subarray(c + bin * size, c + Math.min(1001, (bin + 1) * size))]);
          expect(out.i16[2 * bin]).toBe(overviewValue(Math.min(...part)));
          expect(out.i16[2 * bin + 1]).toBe(overviewValue(Math.max(...part)));
        }
      }
    data.release();
    out.release();
  });

  it("a finite impulse response is a convolution", () => {
    const taps = noise(16, 1, 3);
    const x = noise(300, 1, 4);
    const [data, out, reversed] = [put(x), new Buffer(1200), put(taps.slice().reverse())];
    const line = new Buffer((16 + 512) * 4);
    kernels.fir(data.ptr, out.ptr, 300, line.ptr, reversed.ptr, 16);
    for (let i = 0; i < 300; i++) {
      let y = 0;
      for (let k = 0; k <= Math.min(15, i); k++) y += taps[k] * x[i - k];
      expect(out.f32[i]).toBeCloseTo(y, 5);
    }
    for (const b of [data, out, reversed, line]) b.release();
  });

  it.each(["int16", "int24"] as const)("%s from and to bytes is exact, mono and stereo", (kind) => {
    const bytes = kind === "int16" ? 2 : 3;
    const full = 2 ** (8 * bytes - 1);
    for (const channels of [1, 2]) {
      const frames = 37;
      const values = Array.from(
        { length: frames * channels },
        (_, i) => ((i * 7919 * 97) % (2 * full)) - full
      );
      const raw = new Buffer(frames * channels * bytes + 32);
      values.forEach((v, i) => {
        for (let k = 0; k < bytes; k++) raw.u8[i * bytes + k] = (v >> (8 * k)) & 255;
      });
      const before = raw.u8.slice(0, frames * channels * bytes);
      const planar = new Buffer(frames * channels * 4 + 64);
      const read = kind === "int16" ? kernels.fromInt16 : kernels.fromInt24;
      read(raw.ptr, frames, channels, planar.ptr, frames * 4);
      values.forEach((v, i) => {
        const at = (i % channels) * frames + Math.floor(i / channels);
        expect(planar.f32[at]).toBe(Math.fround(v / full));
      });
      raw.u8.fill(0);
      kernels.toInt(planar.ptr, frames * 4, frames, channels, raw.ptr, bytes, 0);
      expect(raw.u8.slice(0, before.length)).toEqual(before);
      raw.release();
      planar.release();
    }
  });

  it("clips what lies beyond full scale instead of wrapping round", () => {
    const data = put(Float32Array.of(1.5, -1.5, 1, -1, 0.25, -0.25, 2, -2));
    const out = new Buffer(64);
    kernels.toInt(data.ptr, 16, 4, 2, out.ptr, 3, 0);
    const first = out.u8[0] | (out.u8[1] << 8) | (out.u8[2] << 16);
    expect(first).toBe(0x7fffff);
    data.release();
    out.release();
  });

  it("turns a block round", () => {
    for (const n of [1, 2, 7]) {
      const x = noise(n, 1);
      const data = put(x);
      kernels.reverse(data.ptr, n);
      expect(data.f32.slice(0, n)).toEqual(x.slice().reverse());
      data.release();
    }
  });
});

describe("kept sound", () => {
  it("comes back from any place, with silence outside", () => {
    const keep = new MemorySpool();
    const x = noise(RATE * 3, 1);
    eachBlock(x, x, 512, (l, r, n) => keep.append(l, r, n));
    const [l, r] = [new Buffer(4000), new Buffer(4000)];
    for (const from of [-500, 0, 65000, RATE * 3 - 400]) {
      keep.read(from, 1000, l.ptr, r.ptr);
      for (let i = 0; i < 1000; i++) expect(l.f32[i]).toBe(x[from + i] ?? 0);
    }
    for (const b of [keep, l, r]) b.release();
  });
});

describe("the kernels' memory", () => {
  it("that cannot grow refuses one request and serves the next", () => {
    const grow = vi.spyOn(kernels.memory, "grow").mockImplementation(() => {
      throw new RangeError("no more memory");
    });
    expect(() => new Buffer(200e6)).toThrow("no more memory");
    expect(() => new Buffer(200e6)).toThrow("no more memory");
    grow.mockRestore();
    const small = new Buffer(1000);
    expect(small.f32.every((x) => x === 0)).toBe(true);
    expect(small.ptr + 1000).toBeLessThanOrEqual(kernels.memory.buffer.byteLength);
    small.release();
  });
});
