// Releases by their definition: a peak is held for 10 ms and then falls by 8.7 dB in 5 ms, an RMS level by 4.3 dB in 10 ms; from the level comes
// the gain that is wanted, which is followed by 63 % within the release. All of that is computed here anew and set beside what is heard.
import { describe, expect, it } from "vitest";
import { dB } from "./analysis";
import { RATE, step, throughChain } from "./signals";

const LOUD = RATE / 2;
const LOW = 0.001;

/** A level that falls at once from full scale to -60 dB. */
function falling(): Float32Array {
  const wave = new Float32Array(RATE * 2).fill(LOW);
  wave.fill(1, 0, LOUD);
  return wave;
}

function peakLevels(): number[] {
  let [held, left] = [1, 0.01 * RATE];
  return Array.from({ length: RATE }, () => {
    if (left-- <= 0) held = Math.max(LOW, held * Math.exp(-1 / (0.005 * RATE)));
    return dB(held);
  });
}

function rmsLevels(): number[] {
  let square = 1;
  return Array.from({ length: RATE }, () => {
    square = LOW ** 2 + (square - LOW ** 2) * Math.exp(-1 / (0.01 * RATE));
    return dB(Math.sqrt(square));
  });
}

/** Seconds until a gain that follows what is wanted, from its first value on, has come 63 % of the way to its last. */
function timeOf(wanted: readonly number[], releaseMs: number): number {
  const [first, last] = [wanted[0], wanted[wanted.length - 1]];
  let now = first;
  const at = wanted.findIndex((target) => {
    now = target + (now - target) * Math.exp(-1 / ((releaseMs / 1000) * RATE));
    return Math.abs(now - first) >= (1 - Math.exp(-1)) * Math.abs(last - first);
  });
  return at / RATE;
}

/** The same of what is heard. */
function heard(effect: string, params: Record<string, number | string>): number {
  const wave = falling();
  const [out] = throughChain([step(effect, params)], wave);
  const gain = (i: number) => dB(Math.abs(out[i] / wave[i]));
  const [first, last] = [gain(LOUD - 1), gain(wave.length - 1)];
  let at = LOUD;
  while (Math.abs(gain(at) - first) < (1 - Math.exp(-1)) * Math.abs(last - first)) at++;
  return (at - LOUD) / RATE;
}

describe.each([20, 60, 150, 300])("a release of %i ms", (releaseMs) => {
  const close = (got: number, want: number) =>
    expect(Math.abs(got - want) * 1000).toBeLessThan(0.05 * releaseMs);
  const compressed = (level: number) => (level > -20 ? (level + 20) * (1 / 4 - 1) : 0);

  it("of the compressor, peak", () => {
    const params = { thresholdDb: -20, ratio: 4, kneeDb: 0, releaseMs, attackMs: 0 };
    close(heard("compressor", params), timeOf(peakLevels().map(compressed), releaseMs));
  });

  it("of the compressor, RMS", () => {
    const params = { thresholdDb: -20, ratio: 4, kneeDb: 0, releaseMs, attackMs: 0, detector: "rms" };
    close(heard("compressor", params), timeOf(rmsLevels().map(compressed), releaseMs));
  });

  it("of the expander", () => {
    const params = {
      thresholdDb: -30,
      ratio: 2,
      kneeDb: 0,
      rangeDb: 100,
      holdMs: 0,
      releaseMs,
      lookAheadMs: 0
    };
    const wanted = peakLevels().map((level) => Math.min(0, level + 30));
    close(heard("expander", params), timeOf(wanted, releaseMs));
  });

  it("of the gate", () => {
    const params = { thresholdDb: -30, hysteresisDb: 4, rangeDb: 40, holdMs: 0, releaseMs, lookAheadMs: 0 };
    const wanted = peakLevels().map((level) => (level < -34 ? -40 : 0));
    close(heard("gate", params), timeOf(wanted, releaseMs));
  });
});
