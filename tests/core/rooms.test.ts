import { describe, expect, it } from "vitest";
import { CONVOLVER_LATENCY } from "../../src/lib/core/audio/convolver";
import { dB, peakOf, rmsOf, spectrumOf } from "./analysis";
import { decayTime, octave } from "./decay";
import { noise, RATE, step, throughChain } from "./signals";

function impulse(seconds: number): Float32Array {
  const x = new Float32Array(Math.round(seconds * RATE));
  x[0] = 1;
  return x;
}

/** Normalized echo density at a time: share of samples beyond one standard deviation in 20 ms, over that of Gaussian noise (J. S. Abel, P. Huang, 121st AES Convention, 2006). */
function echoDensity(h: Float32Array, seconds: number): number {
  const half = Math.round(0.01 * RATE);
  const at = Math.round(seconds * RATE);
  const part = h.subarray(at - half, at + half);
  const sigma = rmsOf(part);
  return part.filter((x) => Math.abs(x) > sigma).length / part.length / 0.3173;
}

const wet = (params: Record<string, number>) =>
  throughChain(
    [step("reverb", { preDelayMs: 0, ...params, mixPercent: 100 })],
    impulse(Math.max(1.5, params.decayS * 1.3))
  );

describe("reverb", () => {
  it.each([0, 20, 50, 80, 100])(
    "of size %i %% decays within 10 %% of its setting at 500 Hz and 1 kHz, whatever time and damping (ISO 3382)",
    (sizePercent) => {
      for (const decayS of [0.4, 1.2, 5])
        for (const highDecayPercent of [25, 55, 100]) {
          const [left] = wet({ sizePercent, decayS, highDecayPercent });
          for (const hertz of [500, 1000]) {
            const ratio = decayTime(octave(left, hertz)) / decayS;
            expect(
              Math.abs(ratio - 1),
              `${decayS} s, ${highDecayPercent} %, ${hertz} Hz: ${ratio}`
            ).toBeLessThan(0.1);
          }
        }
    }
  );

  it("lets the highs die sooner, as set", () => {
    const [left] = wet({ sizePercent: 40, decayS: 2, highDecayPercent: 40 });
    // An octave around 8 kHz reaches down to where the decay is longer.
    const ratio = decayTime(octave(left, 8000)) / 0.8;
    expect(ratio).toBeGreaterThan(0.9);
    expect(ratio).toBeLessThan(1.4);
  });

  it.each([0, 40, 70, 100])(
    "of size %i %% is dense: normalized echo density at least 0.9 from 80 ms on",
    (sizePercent) => {
      for (const h of wet({ sizePercent, decayS: 2 }))
        for (const t of [0.08, 0.12, 0.2, 0.4])
          expect(echoDensity(h, t), `${t} s`).toBeGreaterThanOrEqual(0.9);
    }
  );

  it("is mono-compatible: folded down it loses 3 dB, as two unrelated signals do, and no more than 3.5 dB", () => {
    for (const sizePercent of [0, 40, 100]) {
      const [left, right] = wet({ sizePercent, decayS: 2 });
      const mono = left.map((x, i) => (x + right[i]) / 2);
      const both = Math.sqrt((rmsOf(left) ** 2 + rmsOf(right) ** 2) / 2);
      expect(dB(rmsOf(mono) / both)).toBeGreaterThan(-3.5);
      expect(Math.abs(dB(rmsOf(left) / rmsOf(right)))).toBeLessThan(0.3);
    }
  });

  it("waits for its pre-delay, and narrows to mono", () => {
    const [left, right] = throughChain(
      [step("reverb", { preDelayMs: 100, widthPercent: 0, mixPercent: 100 })],
      impulse(0.5)
    );
    expect(peakOf(left, 0, 4800)).toBe(0);
    expect(peakOf(left, 4800, 9600)).toBeGreaterThan(0);
    left.forEach((x, i) => expect(Math.abs(x - right[i])).toBeLessThan(1e-6));
  });

  it("keeps its level whatever the decay, within 2 dB", () => {
    const wave = noise(RATE * 4, 0.3);
    const levels = [
      [10, 0.4],
      [50, 1.5],
      [100, 6]
    ].map(([sizePercent, decayS]) => {
      const [out] = throughChain([step("reverb", { sizePercent, decayS, mixPercent: 100 })], wave);
      return dB(rmsOf(out, RATE * 3) / rmsOf(wave));
    });
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(2);
  });
});

describe("convolution reverb", () => {
  const raw = { evenLevel: false, mixPercent: 100, impulse: "room" };
  const decaying = (frames: number, seed: number) =>
    noise(frames, 0.5, seed).map((x, i) => x * Math.exp((-5 * i) / frames));

  it.each([
    ["1 frame", 1],
    ["a third of a partition", 5400],
    ["two and a half partitions", 40960]
  ])("equals direct convolution within -120 dB for an impulse response of %s", (_, frames) => {
    const samples = { left: decaying(frames, 11), right: decaying(frames, 12) };
    const [l, r] = [noise(30000, 0.5, 1), noise(30000, 0.5, 2)];
    const out = throughChain([step("convolution", raw)], l, r, RATE, 512, { room: samples });
    const ins = [l, r];
    const responses = [samples.left, samples.right];
    let error = 0;
    let power = 0;
    for (const c of [0, 1])
      for (let i = 0; i < l.length; i += 37) {
        let y = 0;
        for (let k = 0; k <= Math.min(i, frames - 1); k++) y += responses[c][k] * ins[c][i - k];
        error += (out[c][i] - y) ** 2;
        power += y * y;
      }
    expect(10 * Math.log10(error / power)).toBeLessThan(-120);
  });

  it("is the dry sound exactly for a single impulse, at its declared latency", () => {
    const samples = { left: Float32Array.of(1), right: Float32Array.of(1) };
    const wave = noise(20000, 0.5);
    const [out] = throughChain([step("convolution", raw)], wave, wave, RATE, 512, { room: samples });
    expect(dB(rmsOf(out.map((x, i) => x - wave[i])) / rmsOf(wave))).toBeLessThan(-130);
    expect(CONVOLVER_LATENCY).toBe(16384);
  });

  it("brings impulse responses of any level to about the same loudness, and rings without one", () => {
    const wave = noise(RATE * 2, 0.3);
    const level = (scale: number) => {
      const samples = {
        left: decaying(9000, 1).map((x) => x * scale),
        right: decaying(9000, 2).map((x) => x * scale)
      };
      const [out] = throughChain([step("convolution", { ...raw, evenLevel: true })], wave, wave, RATE, 512, {
        room: samples
      });
      return dB(rmsOf(out, RATE));
    };
    expect(Math.abs(level(0.01) - level(1))).toBeLessThan(0.01);
    const [out] = throughChain([step("convolution", { mixPercent: 100 })], impulse(1));
    expect(spectrumOf(out.subarray(0, 32768)).re.every(Number.isFinite)).toBe(true);
    expect(rmsOf(out, 24000)).toBeGreaterThan(0);
  });
});
