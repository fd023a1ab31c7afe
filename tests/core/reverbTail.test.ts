// What a reverb's late tail is: noise that dies away, without tones of its own. Measured as in the literature on late reverberation: flatness of
// the spectrum (that of Gaussian noise is 0.56 = exp(-γ)), autocorrelation, correlation of the sides, and decay by octaves (ISO 3382-1).
import { describe, expect, it } from "vitest";
import { amplitudeAt, dB, rmsOf, spectrumOf } from "./analysis";
import { decayTime, octave } from "./decay";
import { noise, RATE, sine, step, throughChain } from "./signals";

type Sides = readonly [Float32Array, Float32Array];

/** The wet answer to an impulse that is so loud left and right: another tail for each ratio. */
function tailOf(params: Record<string, number>, [l, r]: readonly [number, number], seconds: number): Sides {
  const [left, right] = [0, 0].map(() => new Float32Array(Math.round(seconds * RATE)));
  left[0] = l;
  right[0] = r;
  return throughChain([step("reverb", { preDelayMs: 0, ...params, mixPercent: 100 })], left, right);
}

/** A tail as it dies away, from a time on. */
function late(h: Float32Array, from: number, frames: number): Float64Array {
  const first = Math.round(from * RATE);
  return Float64Array.from({ length: frames }, (_, i) => h[first + i] ?? 0);
}

function flatness(x: Float64Array): number {
  const { re, im } = spectrumOf(x);
  let [logs, sum, n] = [0, 0, 0];
  for (let k = Math.ceil((200 * x.length) / RATE); k < (4000 * x.length) / RATE; k++) {
    const power = re[k] ** 2 + im[k] ** 2;
    logs += Math.log(power);
    sum += power;
    n++;
  }
  return Math.exp(logs / n) / (sum / n);
}

/** Largest autocorrelation at lags from 2 ms to 200 ms, by the transform of the power spectrum. */
function autocorrelation(x: Float64Array): number {
  const padded = new Float64Array(x.length * 2);
  padded.set(x);
  const { re, im } = spectrumOf(padded);
  const back = spectrumOf(re.map((v, k) => v * v + im[k] * im[k])).re;
  let most = 0;
  for (let lag = Math.round(0.002 * RATE); lag < 0.2 * RATE; lag++)
    most = Math.max(most, Math.abs(back[lag] / back[0]));
  return most;
}

function correlation(a: Float64Array, b: Float64Array): number {
  const dot = a.reduce((sum, v, i) => sum + v * b[i], 0);
  return dot / (a.length * rmsOf(a) * rmsOf(b));
}

const IMPULSES: readonly (readonly [number, number])[] = [
  [1, 0],
  [0, 1],
  [1, 1],
  [1, -1]
];
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b) / values.length;

describe("the late tail", () => {
  it("is measured rightly: noise that dies away is flat, and like itself at no lag", () => {
    for (const decayS of [1.4, 4]) {
      const x = noise(decayS > 2 ? 262144 : 65536, 0.5, 5).map(
        (v, i) => v * 10 ** ((-3 * i) / (RATE * decayS))
      );
      expect(Math.abs(flatness(Float64Array.from(x)) - 0.56)).toBeLessThan(0.05);
      expect(autocorrelation(Float64Array.from(x))).toBeLessThan(0.08);
    }
  });

  it.each([1.4, 4])(
    "of a large room and %f s is noise: flat, without echoes of its own, unlike on both sides",
    (decayS) => {
      const frames = decayS > 2 ? 262144 : 65536;
      const flat: number[] = [];
      const auto: number[] = [];
      const sides: number[] = [];
      for (const impulse of IMPULSES) {
        const both = tailOf({ sizePercent: 100, decayS, highDecayPercent: 100 }, impulse, decayS * 1.2);
        const [left, right] = both.map((h) => late(h, 0.15 * decayS, frames));
        for (const h of [left, right]) {
          flat.push(flatness(h));
          auto.push(autocorrelation(h));
        }
        sides.push(correlation(left, right));
      }
      expect(mean(flat)).toBeGreaterThanOrEqual(0.4);
      expect(mean(auto)).toBeLessThanOrEqual(0.1);
      for (const c of sides) expect(Math.abs(c)).toBeLessThan(0.1);
    }
  );

  it("of a small decay does not ring", () => {
    const auto = IMPULSES.flatMap((impulse) =>
      tailOf({ sizePercent: 40, decayS: 0.4, highDecayPercent: 100 }, impulse, 1).map((h) =>
        autocorrelation(late(h, 0.06, 16384))
      )
    );
    expect(mean(auto)).toBeLessThanOrEqual(0.17);
  });

  it.each([
    [40, 0.4],
    [40, 1.4],
    [100, 1.4],
    [100, 4]
  ])(
    "of size %i %% falls by octaves as %f s say: 7 %%, at 125 Hz 10 %%, the mean of eight tails",
    (sizePercent, decayS) => {
      const tails = IMPULSES.flatMap((impulse) =>
        tailOf({ sizePercent, decayS, highDecayPercent: 100 }, impulse, Math.max(0.8, decayS * 1.3))
      );
      for (const hertz of [125, 250, 500, 1000, 2000, 4000]) {
        const ratio = mean(tails.map((h) => decayTime(octave(h, hertz)))) / decayS;
        expect(Math.abs(ratio - 1), `${hertz} Hz: ${ratio}`).toBeLessThan(hertz === 125 ? 0.1 : 0.07);
      }
    }
  );

  it("holds a held tone: its level within 2 dB, its pitch within 2 cents", () => {
    for (const hertz of [220, 1000, 3000]) {
      const [out] = throughChain(
        [step("reverb", { sizePercent: 100, decayS: 4, mixPercent: 100 })],
        sine(hertz, -12, RATE * 9)
      );
      const levels = Array.from({ length: 20 }, (_, i) =>
        dB(rmsOf(out, RATE * 6.8 + i * 4800, RATE * 6.8 + (i + 1) * 4800))
      );
      const middle = mean(levels);
      expect(Math.sqrt(mean(levels.map((l) => (l - middle) ** 2)))).toBeLessThan(2);
      // What is left when the tone itself is taken out is what has another pitch.
      const from = RATE * 7;
      const own = amplitudeAt(out, hertz, RATE, from, from + RATE * 2);
      for (const cents of [-2, 2]) {
        const other = amplitudeAt(out, hertz * 2 ** (cents / 1200), RATE, from, from + RATE * 2);
        expect(other).toBeLessThan(own);
      }
    }
  });
});
