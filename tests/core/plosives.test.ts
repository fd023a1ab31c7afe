// Pops of breath made under recorded speech, and speech and music that have none.
import { describe, expect, it } from "vitest";
import { plosiveRemoval } from "../../src/lib/core/effects/plosiveRemoval";
import { dB, rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { noise, RATE, step, throughChain } from "./signals";

/** A read sentence, and again. */
const voice = (rate = RATE) => {
  const { left } = recorded("speech", rate);
  return Float32Array.from({ length: 8 * rate }, (_, i) => left[i % left.length] * 0.5);
};

/** Seconds at which the voice is struck. */
const STRUCK = [0.5, 2.1, 4.4, 6.2];

/** Bursts of breath: low noise around 30 Hz that rises within 5 ms and dies away in 40. */
function pops(frames: number, height: number, rate = RATE): Float32Array {
  const out = new Float32Array(frames);
  STRUCK.forEach((at, k) => {
    for (let i = 0; i < 0.25 * rate && at * rate + i < frames; i++) {
      const t = i / rate;
      const envelope = Math.min(1, t / 0.005) * Math.exp(-t / 0.04);
      out[Math.round(at * rate) + i] += height * envelope * Math.sin(2 * Math.PI * (26 + 4 * k) * t);
    }
  });
  return out;
}

const low = (x: Float32Array, rate = RATE) =>
  x.map(
    (
      (state) => (v: number) =>
        (state += (v - state) * ((2 * Math.PI * 80) / rate))
    )(0)
  );

const plus = (a: Float32Array, b: Float32Array) => a.map((x, i) => x + b[i]);

describe("plosive removal", () => {
  it.each([48000, 16000])(
    "takes 15 dB and more of pops at %i Hz where they are, and is the input elsewhere, bit for bit",
    (rate) => {
      const clean = voice(rate);
      const source = plus(clean, pops(clean.length, 0.5, rate));
      const [out] = throughChain([step("plosive-removal")], source, source, rate);
      const rest = low(
        plus(
          out,
          clean.map((x) => -x)
        ),
        rate
      );
      const struck = low(
        plus(
          source,
          clean.map((x) => -x)
        ),
        rate
      );
      const treated = new Uint8Array(clean.length);
      for (const at of STRUCK) {
        const [from, to] = [at * rate, (at + 0.15) * rate].map(Math.round);
        expect(dB(rmsOf(rest, from, to) / rmsOf(struck, from, to)), `${at} s`).toBeLessThan(-15);
        treated.fill(1, Math.max(0, from - 0.1 * rate), to + 0.25 * rate);
      }
      let touched = 0;
      for (let i = 0; i < out.length; i++) if (treated[i] === 0 && out[i] !== source[i]) touched++;
      expect(touched).toBe(0);
    }
  );

  it("leaves a voice at 170 Hz beside a pop as it was", () => {
    const tone = Float32Array.from(
      { length: 8 * RATE },
      (_, i) => 0.05 * Math.sin((2 * Math.PI * 170 * i) / RATE)
    );
    const source = plus(
      plus(voice().subarray(0, tone.length), tone.subarray(0, voice().length)),
      pops(voice().length, 0.5)
    );
    const without = plus(voice(), pops(voice().length, 0.5));
    const [a] = throughChain([step("plosive-removal")], source);
    const [b] = throughChain([step("plosive-removal")], without);
    const kept = plus(
      a,
      b.map((x) => -x)
    );
    const [from, to] = [2.1 * RATE, 2.3 * RATE];
    expect(dB(rmsOf(kept, from, to) / rmsOf(tone, from, to))).toBeGreaterThan(-1);
  });

  it.each(["speech", "guitar"])("finds none in %s: then bit for bit", (name) => {
    const { left, right, sampleRate } = recorded(name);
    expect(throughChain([step("plosive-removal")], left, right, sampleRate)).toEqual([left, right]);
  });

  it("finds none in silence and in steady noise", () => {
    for (const sound of [new Float32Array(RATE), noise(4 * RATE, 0.1)])
      expect(throughChain([step("plosive-removal")], sound)[0]).toEqual(sound);
  });

  it("says what was found", () => {
    expect(plosiveRemoval.found?.({ pops: 0 })).toBe("No pops found: nothing is taken.");
    expect(plosiveRemoval.found?.({ pops: 1 })).toBe("1 pop found.");
    expect(plosiveRemoval.found?.({ pops: 7 })).toBe("7 pops found.");
  });
});
