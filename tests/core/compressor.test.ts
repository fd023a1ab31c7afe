// The compressor's further controls, each against what its help promises.
import { describe, expect, it } from "vitest";
import { completeParams } from "../../src/lib/core/effects/registry";
import { compressor, makeUp, staticGain } from "../../src/lib/core/effects/compressor";
import { amplitudeAt, dB, peakOf, rmsOf } from "./analysis";
import { RATE, sine, step, throughChain } from "./signals";

const late = (x: Float32Array) => dB(peakOf(x, RATE / 2));
const run = (params: Record<string, number | string | boolean>, left: Float32Array, right = left) =>
  throughChain([step("compressor", { thresholdDb: -30, ratio: 4, kneeDb: 0, ...params })], left, right);

describe("compressor", () => {
  it("links the channels as far as set", () => {
    const [loud, soft] = [sine(1000, -6, RATE), sine(1000, -40, RATE)];
    // Linked, the soft side is turned down with the loud one: 24 dB over, a quarter of it left, 18 dB less.
    expect(late(run({ linkPercent: 100 }, loud, soft)[1])).toBeCloseTo(-58, 0);
    // On its own it lies under the threshold.
    expect(late(run({ linkPercent: 0 }, loud, soft)[1])).toBeCloseTo(-40, 1);
    const half = late(run({ linkPercent: 50 }, loud, soft)[1]);
    expect(half).toBeGreaterThan(-58);
    expect(half).toBeLessThan(-45);
  });

  it("with the RMS detector hears the mean power: a sine reads 3 dB less than its peak", () => {
    const wave = sine(1000, -6, RATE);
    const peak = late(run({ detector: "peak" }, wave)[0]);
    const rms = late(run({ detector: "rms" }, wave)[0]);
    expect(rms - peak).toBeCloseTo(3.01 * 0.75, 1);
  });

  it("ignores in its side-chain what lies below the high-pass", () => {
    const bass = sine(60, -6, RATE);
    expect(late(run({ sideHighPassHz: 20 }, bass)[0])).toBeLessThan(-20);
    expect(late(run({ sideHighPassHz: 500 }, bass)[0])).toBeGreaterThan(-9);
    const voice = sine(2000, -6, RATE);
    expect(Math.abs(late(run({ sideHighPassHz: 500 }, voice)[0]) - late(run({}, voice)[0]))).toBeLessThan(
      0.2
    );
  });

  it("mixes wet and dry by amplitude", () => {
    const wave = sine(1000, -6, RATE);
    const [dry, wet, mixed] = [0, 100, 50].map(
      (mixPercent) => 10 ** (late(run({ mixPercent }, wave)[0]) / 20)
    );
    expect(dry).toBeCloseTo(10 ** (-6 / 20), 3);
    expect(mixed).toBeCloseTo((dry + wet) / 2, 3);
  });

  it("adds half of what a full-scale signal loses when its make-up is automatic, and what is set besides", () => {
    const params = completeParams(compressor, {
      thresholdDb: -30,
      ratio: 3,
      kneeDb: 0,
      autoMakeUp: true,
      makeUpDb: 2
    });
    expect(staticGain(0, params)).toBeCloseTo(-20, 6);
    expect(makeUp(params)).toBeCloseTo(12, 6);
    const quiet = sine(1000, -60, RATE);
    expect(late(run({ autoMakeUp: true, makeUpDb: 2, ratio: 3 }, quiet)[0])).toBeCloseTo(-48, 1);
  });

  it("catches a beginning with look-ahead that it lets through without", () => {
    const wave = new Float32Array(RATE);
    wave.set(sine(1000, -3, RATE / 2), RATE / 2);
    const first = (lookAheadMs: number) =>
      dB(peakOf(run({ lookAheadMs, attackMs: 3 }, wave)[0], RATE / 2, RATE / 2 + 60));
    expect(first(0)).toBeGreaterThan(-8);
    expect(first(20)).toBeLessThan(-18);
  });

  it("holds a reduction for the set time before it lets go", () => {
    const wave = new Float32Array(RATE).fill(0.001);
    wave.fill(0.5, RATE / 4, RATE / 2);
    const back = (holdMs: number) => {
      const [out] = run({ holdMs, attackMs: 1, releaseMs: 20 }, wave);
      let at = RATE / 2;
      while (out[at] < 0.0008) at++;
      return (at - RATE / 2) / RATE;
    };
    expect(back(300) - back(100)).toBeCloseTo(0.2, 2);
  });

  it("leaves what lies under the threshold bit for bit", () => {
    const wave = sine(440, -40, RATE);
    expect(run({}, wave)[0]).toEqual(wave);
  });

  it("makes no distortion worth the name on a steady tone", () => {
    const [out] = run({ attackMs: 10, releaseMs: 200 }, sine(1000, -10, RATE * 2));
    const part = (hertz: number) => amplitudeAt(out, hertz, RATE, RATE, RATE * 2);
    for (const harmonic of [2, 3, 5]) expect(dB(part(1000 * harmonic) / part(1000))).toBeLessThan(-60);
    expect(rmsOf(out, RATE)).toBeGreaterThan(0);
  });
});
