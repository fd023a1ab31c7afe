import { describe, expect, it } from "vitest";
import { Resampler, resampled, resampledLength } from "../../src/lib/core/audio/resampler";
import { noise, sine } from "./signals";

/** What is left of a signal when the sine of this frequency that fits it best is taken away, against that sine, in dB. */
function residueDb(x: Float32Array, hertz: number, rate: number, from: number, to: number): number {
  let [cc, cs, ss, xc, xs] = [0, 0, 0, 0, 0];
  for (let i = from; i < to; i++) {
    const c = Math.cos((2 * Math.PI * hertz * i) / rate);
    const s = Math.sin((2 * Math.PI * hertz * i) / rate);
    cc += c * c;
    cs += c * s;
    ss += s * s;
    xc += x[i] * c;
    xs += x[i] * s;
  }
  const det = cc * ss - cs * cs;
  const a = (xc * ss - xs * cs) / det;
  const b = (xs * cc - xc * cs) / det;
  let error = 0;
  for (let i = from; i < to; i++) {
    const angle = (2 * Math.PI * hertz * i) / rate;
    error += (x[i] - a * Math.cos(angle) - b * Math.sin(angle)) ** 2;
  }
  return 10 * Math.log10(error / (to - from) / ((a * a + b * b) / 2));
}

describe("resampler", () => {
  it.each([
    [44100, 48000, 997],
    [44100, 48000, 10007],
    [44100, 48000, 18000],
    [48000, 44100, 997],
    [48000, 44100, 17000],
    [16000, 48000, 3001],
    [96000, 48000, 12007],
    [48000, 96000, 12007],
    [22050, 44100, 5003]
  ])("%i → %i Hz: a sine of %i Hz comes out pure, 120 dB above all else", (from, to, hertz) => {
    const y = resampled([sine(hertz, -1, from, from)], from, to)[0];
    expect(residueDb(y, hertz, to, to / 4, (to * 3) / 4)).toBeLessThan(-120);
  });

  it("keeps the level within 0.01 dB up to 19 kHz at 44.1 kHz", () => {
    for (const hertz of [50, 5000, 15000, 19000]) {
      const y = resampled([sine(hertz, -6, 44100, 44100)], 44100, 48000)[0];
      let power = 0;
      for (let i = 12000; i < 36000; i++) power += y[i] ** 2;
      expect(Math.abs(10 * Math.log10((power / 24000) * 2) + 6), `${hertz} Hz`).toBeLessThan(0.01);
    }
  });

  it("lets nothing through that the lower rate cannot hold", () => {
    const y = resampled([sine(23000, -1, 48000, 48000)], 48000, 44100)[0];
    const middle = y.subarray(10000, 34000);
    const rms = Math.sqrt(middle.reduce((a, x) => a + x * x, 0) / middle.length);
    expect(20 * Math.log10(rms)).toBeLessThan(-115);
  });

  it("is in time, as long as the rates say, and the same in pieces of any size", () => {
    const [x, y] = [noise(20000, 0.5, 1), noise(20000, 0.5, 2)];
    const [whole, other] = resampled([x, y], 44100, 48000);
    expect(whole.length).toBe(resampledLength(20000, 44100, 48000));
    for (const size of [1000, 8192, 7777]) {
      const parts: number[] = [];
      const others: number[] = [];
      const resampler = new Resampler(44100, 48000);
      const take = (left: Float32Array, right: Float32Array) => {
        parts.push(...left);
        others.push(...right);
      };
      for (let at = 0; at < x.length; at += size)
        resampler.push(x.subarray(at, at + size), y.subarray(at, at + size), take);
      resampler.end(take);
      resampler.release();
      expect(Float32Array.from(parts.slice(0, whole.length))).toEqual(whole);
      expect(Float32Array.from(others.slice(0, whole.length))).toEqual(other);
    }
    const click = new Float32Array(4410);
    click[441] = 1;
    const [late] = resampled([click], 44100, 48000);
    expect(late.indexOf(Math.max(...late))).toBe(480);
  });
});
