// The level of read speech that changes from sentence to sentence, ridden towards its mean.
import { describe, expect, it } from "vitest";
import { leveller } from "../../src/lib/core/effects/leveller";
import { Meter } from "../../src/lib/core/measure/meter";
import { dB, rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { eachBlock, noise, RATE, same, step, throughChain } from "./signals";

const sentence = recorded("speech", RATE).left;
const PAUSE = RATE * 1.5;

/** The sentence at three levels with pauses of a quiet room between. */
function changing(levels: readonly number[]): { sound: Float32Array; pauses: (readonly [number, number])[] } {
  const one = sentence.length + PAUSE;
  const sound = noise(one * levels.length, 0.0005, 3);
  const scale = 1 / rmsOf(sentence);
  levels.forEach((level, k) => {
    const factor = scale * 10 ** (level / 20);
    for (let i = 0; i < sentence.length; i++) sound[k * one + i] += sentence[i] * factor;
  });
  // The middle of each pause: its edges belong to the words.
  const pauses = levels.map(
    (_, k) => [k * one + sentence.length + 0.5 * RATE, (k + 1) * one - 0.5 * RATE] as const
  );
  return { sound, pauses };
}

function loudness(x: Float32Array): { spread: number; integrated: number } {
  const meter = new Meter(RATE);
  eachBlock(x, x, 480, (l, r, n) => meter.push(l, r, n));
  const all = [...meter.overTime().momentaryLufs].filter((l) => l > -50).sort((a, b) => a - b);
  const { integratedLufs } = meter.loudness();
  meter.release();
  return {
    spread: all[Math.floor(all.length * 0.95)] - all[Math.floor(all.length * 0.1)],
    integrated: integratedLufs
  };
}

describe("the leveller", () => {
  it.each([[[-14, -24, -34]], [[-34, -14, -24]]])(
    "halves the spread of loudness of speech at %s dB and leaves pauses as they are",
    (levels) => {
      const { sound, pauses } = changing(levels);
      const [out] = throughChain([step("leveller")], sound);
      expect(loudness(out).spread).toBeLessThan(loudness(sound).spread / 2);
      for (const [from, to] of pauses)
        expect(dB(rmsOf(out, from, to) / rmsOf(sound, from, to))).toBeLessThan(1);
    }
  );

  it("works on speech without any pause too", () => {
    const scale = 1 / rmsOf(sentence);
    const [loud, quiet] = [0.25, 0.08].map((factor) => sentence.map((x) => x * factor * scale));
    const sound = new Float32Array(2 * sentence.length);
    sound.set(loud);
    sound.set(quiet, sentence.length);
    const [out] = throughChain([step("leveller")], sound);
    const apart = (x: Float32Array) => dB(rmsOf(x, 0, sentence.length) / rmsOf(x, sentence.length, x.length));
    expect(apart(sound)).toBeCloseTo(9.9, 1);
    expect(apart(out)).toBeLessThan(5);
  });

  it("brings speech to a level, within 1 LU", () => {
    const { sound } = changing([-14, -24, -30]);
    const [out] = throughChain([step("leveller", { towards: "level", levelDb: -22 })], sound);
    expect(Math.abs(loudness(out).integrated + 22)).toBeLessThan(1);
  });

  it("gives and takes no more than is said, and moves slowly: no step between two samples", () => {
    const { sound } = changing([-14, -34]);
    const [out] = throughChain([step("leveller", { mostDb: 4 })], sound);
    let [least, most, jump, last, at] = [Infinity, -Infinity, 0, NaN, -1];
    for (let i = 0; i < sound.length; i++) {
      if (Math.abs(sound[i]) < 0.02) continue;
      const gain = dB(Math.abs(out[i] / sound[i]));
      [least, most] = [Math.min(least, gain), Math.max(most, gain)];
      if (i === at + 1) jump = Math.max(jump, Math.abs(gain - last));
      [last, at] = [gain, i];
    }
    expect(least).toBeGreaterThan(-4.2);
    expect(most).toBeLessThan(4.2);
    expect(most - least).toBeGreaterThan(4);
    expect(jump).toBeLessThan(0.005);
    expect(jump).toBeGreaterThan(0);
  });

  it("is the same for blocks of any size", () => {
    const { sound } = changing([-20, -30]);
    const whole = throughChain([step("leveller")], sound)[0];
    for (const size of [7, 100, 333])
      expect(same(throughChain([step("leveller")], sound, sound, RATE, size)[0], whole)).toBe(true);
  });

  it("says what it found, and leaves what is no speech as it is", () => {
    const silence = new Float32Array(RATE);
    expect(same(throughChain([step("leveller")], silence)[0], silence)).toBe(true);
    expect(leveller.found?.({ gains: "" })).toBe("No speech found: the level stays as it is.");
    expect(leveller.found?.({ gains: "x", least: -4.04, most: 9.96 })).toBe("Gain from -4.0 to +10.0 dB.");
  });
});
