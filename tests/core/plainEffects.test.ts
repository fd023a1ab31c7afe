import { describe, expect, it } from "vitest";
import { responseDb } from "../../src/lib/core/audio/biquadDesign";
import { toneSections, tone } from "../../src/lib/core/effects/tone";
import { completeParams } from "../../src/lib/core/effects/registry";
import { amplitudeAt, dB } from "./analysis";
import { noise, RATE, sine, step, throughChain } from "./signals";

const left = noise(6000, 0.4, 3);
const right = noise(6000, 0.4, 4);

describe("gain, polarity, DC removal, channels are exact", () => {
  it("gain multiplies", () => {
    const [out] = throughChain([step("gain", { gainDb: 6.020599913279624 })], left);
    out.forEach((x, i) => expect(x).toBeCloseTo(left[i] * 2, 7));
    expect(throughChain([step("gain", { gainDb: 0 })], left)[0]).toEqual(left);
  });

  it("polarity turns over the sides that it is told to", () => {
    const [l, r] = throughChain([step("polarity", { left: false, right: true })], left, right);
    expect(l).toEqual(left);
    expect(r).toEqual(right.map((x) => -x));
  });

  it("DC removal subtracts each channel's mean and nothing else", () => {
    const tones = [sine(50, -6, RATE), sine(100, -6, RATE)];
    const shifted = [tones[0].map((x) => x + 0.11), tones[1].map((x) => x - 0.07)];
    const out = throughChain([step("dc-removal")], shifted[0], shifted[1]);
    for (const c of [0, 1]) out[c].forEach((x, i) => expect(Math.abs(x - tones[c][i])).toBeLessThan(1e-6));
  });

  it("DC removal by a high-pass takes a drifting offset away and leaves 50 Hz alone", () => {
    const wave = sine(50, -12, RATE * 4).map((x, i) => x + 0.1 + 0.02 * Math.sin(i / 90000));
    const [out] = throughChain([step("dc-removal", { method: "drift" })], wave);
    const late = out.subarray(RATE * 3);
    expect(Math.abs(late.reduce((a, b) => a + b, 0) / late.length)).toBeLessThan(0.004);
    expect(dB(amplitudeAt(late, 50, RATE))).toBeCloseTo(-12, 1);
  });

  const cases: [string, Record<string, number | string>, (l: number, r: number) => [number, number]][] = [
    ["fold to mono", { mode: "mono" }, (l, r) => [(l + r) / 2, (l + r) / 2]],
    ["swap", { mode: "swap" }, (l, r) => [r, l]],
    ["left only", { mode: "left" }, (l) => [l, l]],
    ["right only", { mode: "right" }, (_, r) => [r, r]],
    ["width 0 %", { widthPercent: 0 }, (l, r) => [(l + r) / 2, (l + r) / 2]],
    ["width 200 %", { widthPercent: 200 }, (l, r) => [1.5 * l - 0.5 * r, 1.5 * r - 0.5 * l]],
    ["balance -100 %", { balancePercent: -100 }, (l) => [l, 0]],
    ["balance +50 %", { balancePercent: 50 }, (l, r) => [l / 2, r]]
  ];
  it.each(cases)("channels: %s", (_, params, want) => {
    const [l, r] = throughChain([step("channels", params)], left, right);
    l.forEach((x, i) => {
      const [a, b] = want(left[i], right[i]);
      expect(x).toBeCloseTo(a, 6);
      expect(r[i]).toBeCloseTo(b, 6);
    });
  });
});

describe("tone", () => {
  it.each([24, -24, 6])("bass and treble reach %i dB, the middle stays", (db) => {
    const params = { bassDb: db, trebleDb: -db, bassHz: 100, trebleHz: 6000 };
    const impulse = new Float32Array(32768);
    impulse[0] = 1;
    const [out] = throughChain([step("tone", params)], impulse);
    const sections = toneSections(completeParams(tone, params), RATE);
    for (const hertz of [20, 50, 100, 300, 800, 3000, 6000, 12000, 20000]) {
      let re = 0;
      let im = 0;
      out.forEach((h, n) => {
        re += h * Math.cos((2 * Math.PI * hertz * n) / RATE);
        im -= h * Math.sin((2 * Math.PI * hertz * n) / RATE);
      });
      expect(
        Math.abs(dB(Math.hypot(re, im)) - responseDb(sections, (2 * Math.PI * hertz) / RATE))
      ).toBeLessThan(0.02);
    }
    const at = (hertz: number) => responseDb(sections, (2 * Math.PI * hertz) / RATE);
    expect(at(100)).toBeCloseTo(db / 2, 0);
    expect(at(6000)).toBeCloseTo(-db / 2, 0);
    expect(Math.abs(at(10) - db)).toBeLessThan(0.5);
    expect(Math.abs(at(780))).toBeLessThan(0.5);
  });
});
