import { describe, expect, it } from "vitest";
import { PHASES } from "../../src/lib/core/audio/truePeakFilter";
import { bandLimitedPeak, ebur128TruePeak } from "./analysis";
import { recorded } from "./recorded";
import { noise, RATE, sine, step, throughChain } from "./signals";

const dB = (x: number) => 20 * Math.log10(x);
const peakOf = (x: Float32Array) => x.reduce((a, b) => Math.max(a, Math.abs(b)), 0);

describe("compressor", () => {
  // Static curve of a compressor with a quadratic knee: Giannoulis, Massberg, Reiss, JAES 60 (2012), equation 4.
  const curve = (x: number, t: number, ratio: number, knee: number) => {
    if (2 * (x - t) < -knee) return x;
    if (2 * Math.abs(x - t) <= knee) return x + ((1 / ratio - 1) * (x - t + knee / 2) ** 2) / (2 * knee);
    return t + (x - t) / ratio;
  };

  it.each([-50, -30, -24, -21, -18, -10, -3, 0])(
    "a 1 kHz sine at %i dBFS comes out on the static curve within 0.1 dB",
    (level) => {
      const params = { thresholdDb: -24, ratio: 4, kneeDb: 8, attackMs: 5, releaseMs: 50 };
      const [out] = throughChain([step("compressor", params)], sine(1000, level, RATE));
      const got = dB(peakOf(out.subarray(RATE / 2)));
      expect(Math.abs(got - curve(level, -24, 4, 8))).toBeLessThan(0.1);
    }
  );

  it("reaches 63 % of a gain reduction within its attack, and gives 63 % back within its release, to 5 %", () => {
    const attackMs = 20;
    const releaseMs = 100;
    const loud = RATE / 2;
    // A level step on a constant: the envelope is exact, so the gain can be read off every sample.
    const wave = new Float32Array(RATE * 2).fill(0.001);
    wave.fill(1, RATE / 2, RATE / 2 + loud);
    const params = { thresholdDb: -20, ratio: 4, kneeDb: 0, attackMs, releaseMs };
    const [out] = throughChain([step("compressor", params)], wave);
    const reduction = (i: number) => dB(out[i] / wave[i]);
    const full = -15;
    let attacked = RATE / 2;
    while (reduction(attacked) > full * (1 - Math.exp(-1))) attacked++;
    expect(Math.abs((attacked - RATE / 2) / RATE - attackMs / 1000)).toBeLessThan(0.05 * (attackMs / 1000));
    const end = RATE / 2 + loud;
    // The detector lets go after its hold; from there on the release counts.
    let begin = end;
    while (reduction(begin) < full * 0.999) begin++;
    const from = reduction(begin);
    let released = begin;
    while (reduction(released) < from * Math.exp(-1)) released++;
    expect(Math.abs((released - begin) / RATE - releaseMs / 1000)).toBeLessThan(0.05 * (releaseMs / 1000));
  });

  it("keeps its latency when the look-ahead changes", () => {
    const wave = sine(1000, -40, 4000);
    for (const lookAheadMs of [0, 3, 20]) {
      const [out] = throughChain([step("compressor", { lookAheadMs })], wave);
      expect(out).toEqual(wave);
    }
  });
});

describe("limiter", () => {
  /** True peak by the 48-coefficient interpolator of BS.1770-5 annex 2, plainly convolved. */
  const truePeak = (x: Float32Array) => {
    let top = 0;
    for (let n = 11; n < x.length; n++)
      for (const phase of PHASES) {
        let y = 0;
        for (let k = 0; k < 12; k++) y += phase[k] * x[n - k];
        top = Math.max(top, Math.abs(y));
      }
    return top;
  };
  const square = sine(220, 0, RATE).map((x) => Math.sign(x) * 0.5);
  const bursts = noise(RATE, 0.5).map((x, i) => (Math.floor(i / 3000) % 2 ? x : x * 0.01));

  const speech = recorded("speech", RATE).left.subarray(0, RATE * 2);
  const music = recorded("guitar", RATE).left.subarray(0, RATE * 2);
  it.each([
    ["noise", noise(RATE, 0.5)],
    ["noise bursts", bursts],
    ["a square wave", square],
    ["a fast square wave", sine(3700, 0, RATE).map((x) => Math.sign(x) * 0.5)],
    ["a sine at a quarter of the rate", sine(12000, -6, RATE, RATE, Math.PI / 4)],
    ["a high sine", sine(17000, -6, RATE)],
    ["recorded speech", speech],
    ["recorded music", music]
  ])(
    "holds %s, driven 30 dB into it, under its ceiling: 0.05 dB by BS.1770, 0.2 dB by libebur128 and by 16 times oversampling",
    (_, wave) => {
      const [out] = throughChain([step("limiter", { gainDb: 30, ceilingDb: -1 })], wave);
      expect(dB(truePeak(out))).toBeLessThan(-0.95);
      expect(dB(ebur128TruePeak(out))).toBeLessThan(-0.8);
      expect(dB(bandLimitedPeak(out))).toBeLessThan(-0.8);
      expect(dB(peakOf(out))).toBeGreaterThan(-6);
    }
  );

  it.each([1, 2, 5, 10])(
    "never passes a sample above the ceiling with %i ms of look-ahead and true peak off",
    (lookAheadMs) => {
      const [out] = throughChain(
        [step("limiter", { gainDb: 24, ceilingDb: -0.1, lookAheadMs, truePeak: false })],
        bursts
      );
      expect(peakOf(out)).toBeLessThanOrEqual(10 ** (-0.1 / 20) + 1e-7);
    }
  );

  it.each([
    ["speech", speech],
    ["music", music],
    ["noise", noise(RATE, 0.5)]
  ])("searches %s for peaks only where they decide: the same for blocks of any size", (_, wave) => {
    const other = noise(wave.length, 0.2, 3);
    for (const [gainDb, lookAheadMs] of [
      [30, 5],
      [12, 1],
      [6, 10]
    ]) {
      const bytes = (size: number) =>
        throughChain([step("limiter", { gainDb, lookAheadMs })], wave, other, RATE, size).map((x) =>
          Buffer.from(x.buffer)
        );
      const whole = bytes(512);
      for (const size of [7, 64, 200])
        expect(bytes(size).every((x, c) => x.length > 0 && x.equals(whole[c]))).toBe(true);
    }
  });

  it("changes nothing below its ceiling", () => {
    const wave = sine(440, -12, 9000);
    const [out] = throughChain([step("limiter", { gainDb: 0, ceilingDb: -1 })], wave);
    expect(out).toEqual(wave);
  });

  it("lifts a quiet recording by its gain", () => {
    const [out] = throughChain([step("limiter", { gainDb: 24, ceilingDb: -1 })], sine(440, -48, RATE));
    expect(dB(peakOf(out))).toBeCloseTo(-24, 2);
  });
});
