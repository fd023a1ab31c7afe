import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { LineLevels } from "../../src/lib/core/audio/lineLevels";
import { LineSpectrum } from "../../src/lib/core/audio/lineSpectrum";
import { hann, hannResponse } from "../../src/lib/core/audio/windows";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { dB } from "./analysis";
import { eachBlock, noise, RATE, sine } from "./signals";

const SECONDS = 6;

/** The lines near a frequency in a sound that is on the left alone. */
function linesNear(x: Float32Array, hertz: number, rate = RATE) {
  const spectrum = new LineSpectrum(rate, x.length, 700, () => undefined);
  eachBlock(x, new Float32Array(x.length), 700, (l, r, n) => spectrum.push(l, r, n));
  const lines = spectrum.lines(hertz, 0.02);
  spectrum.release();
  return lines;
}

describe("the Hann window's spectrum", () => {
  it("is its discrete Fourier sum at any distance from the middle", () => {
    const window = hann(256);
    for (let bins = 0; bins <= 3; bins += 0.125) {
      let re = 0;
      let im = 0;
      window.forEach((w, i) => {
        // About the window's centre, where the sum is real.
        const angle = (2 * Math.PI * bins * (i - 128)) / 256;
        re += (w * Math.cos(angle)) / 128;
        im += (w * Math.sin(angle)) / 128;
      });
      expect(hannResponse(bins), `${bins} bins`).toBeCloseTo(re, 4);
      expect(hannResponse(-bins)).toBe(hannResponse(bins));
      expect(im).toBeCloseTo(0, 9);
    }
  });
});

describe("lines of a spectrum", () => {
  it("a tone's frequency within 0.001 Hz and its level within 0.1 dB, in noise 40 dB below it", () => {
    const hiss = noise(RATE * SECONDS, 0.01 * 0.1 * Math.sqrt(1.5));
    fc.assert(
      fc.property(fc.double({ min: 45, max: 600, noNaN: true }), (hertz) => {
        const lines = linesNear(
          sine(hertz, -20, RATE * SECONDS).map((x, i) => x + hiss[i]),
          hertz
        );
        expect(lines).toHaveLength(1);
        expect(Math.abs(lines[0].hertz - hertz)).toBeLessThan(0.001);
        expect(Math.abs(dB(lines[0].amplitude) + 20)).toBeLessThan(0.1);
      }),
      { numRuns: 12, seed: 5 }
    );
  });

  it("two tones 12 Hz apart are two lines; noise and silence have none", () => {
    const two = sine(100, -20, RATE * SECONDS);
    sine(112, -26, two.length).forEach((x, i) => (two[i] += x));
    expect(linesNear(two, 100).map((l) => Math.round(l.hertz * 100) / 100)).toEqual([100]);
    expect(linesNear(two, 112).map((l) => Math.round(l.hertz * 100) / 100)).toEqual([112]);
    expect(linesNear(noise(two.length), 100)).toEqual([]);
    expect(linesNear(new Float32Array(two.length), 100)).toEqual([]);
  });
});

describe("levels of a line over time", () => {
  it("the share of quiet moments tells how far a line lets up", () => {
    const levels = new LineLevels([100], RATE);
    const moment = new KernelBuffer(levels.size * 4);
    // Three moments of four at -20 dB, one at -40 dB.
    for (let i = 0; i < 40; i++) {
      moment.f32.set(sine(100.4, i % 4 === 0 ? -40 : -20, levels.size));
      levels.look(moment.ptr);
    }
    expect(Math.abs(dB(levels.quiet(100.4, 0.2)) + 40)).toBeLessThan(0.3);
    expect(Math.abs(dB(levels.quiet(100.4, 0.5)) + 20)).toBeLessThan(0.3);
    levels.release();
    moment.release();
  });

  it("silent moments do not count, and without any other there is no level", () => {
    const levels = new LineLevels([50, 100], RATE);
    const moment = new KernelBuffer(levels.size * 4);
    for (let i = 0; i < 20; i++) levels.look(moment.ptr);
    expect(levels.quiet(50, 0.2)).toBe(0);
    moment.f32.set(sine(50, -30, levels.size));
    levels.look(moment.ptr);
    expect(Math.abs(dB(levels.quiet(50, 0.2)) + 30)).toBeLessThan(0.3);
    levels.release();
    moment.release();
  });
});
