import { describe, expect, it } from "vitest";
import { amplitudeAt, dB, peakOf, rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { noise, RATE, sine, step, throughChain } from "./signals";

describe("de-esser", () => {
  const burst = (hertz: number) => {
    const x = new Float32Array(RATE);
    x.set(sine(hertz, -12, RATE / 2), RATE / 4);
    return x;
  };
  const settings = { thresholdDb: -50, amountDb: 8, ratio: 20 };

  it.each([5200, 6000, 7000, 8000, 8800])("turns a burst at %i Hz down by the set amount", (hertz) => {
    const [out] = throughChain([step("de-esser", settings)], burst(hertz));
    const level = dB(amplitudeAt(out, hertz, RATE, RATE / 2, (RATE * 11) / 16));
    expect(Math.abs(level - (-12 - 8))).toBeLessThan(0.2);
  });

  it.each([200, 1000, 3000, 12000])("leaves %i Hz within 0.1 dB while it tames a burst", (hertz) => {
    const wave = burst(7000).map((x, i) => x + 0.1 * Math.sin((2 * Math.PI * hertz * i) / RATE));
    const [out] = throughChain([step("de-esser", settings)], wave);
    const level = dB(amplitudeAt(out, hertz, RATE, RATE / 2, (RATE * 11) / 16));
    expect(Math.abs(level - -20)).toBeLessThan(0.1);
  });

  it("passes sound without sharp s sounds bit for bit", () => {
    const wave = sine(400, -20, RATE);
    const [out] = throughChain([step("de-esser", { thresholdDb: -30 })], wave);
    expect(out).toEqual(wave);
  });
});

describe("transient shaper", () => {
  const crest = (x: Float32Array) => dB(peakOf(x) / rmsOf(x));
  const drums = ["drum-snare-hard", "drum-tom-mid-hard", "drum-bass-hard"] as const;

  it.each(drums.flatMap((name) => [3, 6, 9, 10.5, 12].map((db) => [name, db] as const)))(
    "the crest factor of %s moves by %i dB ±1 dB",
    (name, attackDb) => {
      const { left, sampleRate } = recorded(name);
      const wave = new Float32Array(left.length + 4000);
      wave.set(
        left.map((x) => x * 0.25),
        4000
      );
      const [out] = throughChain([step("transient-shaper", { attackDb })], wave, wave, sampleRate);
      expect(Math.abs(crest(out) - crest(wave) - attackDb)).toBeLessThan(1);
    }
  );

  it.each(drums.flatMap((name) => [-3, -6, -9].map((db) => [name, db] as const)))(
    "the hit of %s is held %i dB down ±0.5 dB, and what falls below that by itself stays within 2.5 dB",
    (name, attackDb) => {
      const { left, sampleRate } = recorded(name);
      const wave = new Float32Array(left.length + 4000);
      wave.set(left, 4000);
      const [out] = throughChain([step("transient-shaper", { attackDb })], wave, wave, sampleRate);
      const top = dB(peakOf(wave));
      expect(Math.abs(dB(peakOf(out)) - top - attackDb)).toBeLessThan(0.5);
      // Two periods of the lowest drum.
      const moment = Math.round(0.04 * sampleRate);
      for (let at = 4000; at + moment <= wave.length; at += moment) {
        const level = dB(peakOf(wave, at, at + moment)) - top;
        const wanted = Math.min(level, attackDb);
        const heard = dB(peakOf(out, at, at + moment)) - top;
        if (level > -50)
          expect(Math.abs(heard - wanted), `${((at - 4000) / moment) * 40} ms`).toBeLessThan(2.5);
      }
      const later = wave.findLastIndex((x) => Math.abs(x) > 0.15 * peakOf(wave));
      expect(Math.abs(dB(rmsOf(out, later) / rmsOf(wave, later)))).toBeLessThan(0.5);
    }
  );

  it("sustain turns what rings on, not the hit", () => {
    const wave = sine(180, -6, RATE).map((x, i) => (i < 2000 ? 0 : x * Math.exp(-(i - 2000) / 6000)));
    const [more] = throughChain([step("transient-shaper", { sustainDb: 8 })], wave);
    const [less] = throughChain([step("transient-shaper", { sustainDb: -8 })], wave);
    const late = (x: Float32Array) => dB(rmsOf(x, 22000, 30000) / rmsOf(wave, 22000, 30000));
    const hit = (x: Float32Array) => dB(peakOf(x, 2000, 2600) / peakOf(wave, 2000, 2600));
    expect(Math.abs(late(more) - 8)).toBeLessThan(1.5);
    expect(Math.abs(late(less) + 8)).toBeLessThan(1.5);
    expect(Math.abs(hit(more))).toBeLessThan(0.5);
    expect(Math.abs(hit(less))).toBeLessThan(0.5);
  });

  it("leaves steady sound alone", () => {
    const wave = noise(RATE, 0.3);
    for (const attackDb of [12, -12]) {
      const [out] = throughChain([step("transient-shaper", { attackDb })], wave);
      expect(Math.abs(dB(rmsOf(out, RATE / 2) / rmsOf(wave, RATE / 2)))).toBeLessThan(1.5);
    }
  });
});
