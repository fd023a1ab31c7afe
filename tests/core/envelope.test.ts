// Curves that fades and lines are drawn with, against their formulas, and the laws of crossfades.
import { describe, expect, it } from "vitest";
import { curveOf, monotoneSlopes, type EnvelopePoint } from "../../src/lib/core/audio/envelope";
import { fadeGain, fadeGainAt } from "../../src/lib/core/audio/fades";
import type { FadeShape } from "../../src/lib/core/session/schema";
import { lineGain, shapeGainAt } from "../../src/lib/core/render/clipShape";
import { applyCommand } from "../../src/lib/core/session/commands";
import { crossShape } from "../../src/lib/core/session/clipWindow";
import { newTrack } from "../../src/lib/core/session/make";
import { findClip } from "../../src/lib/core/session/lookup";
import { project } from "./owned";
import { ArraySource, clipOf, documentWith, fade, mixed, noise, RATE, step } from "./signals";

const points = (...pairs: [number, number][]): EnvelopePoint[] => pairs.map(([at, value]) => ({ at, value }));

describe("a curve through points", () => {
  const steep = points([0, 0], [1, 0.1], [2, 5], [3, 5.1], [6, -2], [7, -2]);

  it("meets its points and stays before the first and behind the last, straight or smooth", () => {
    for (const join of ["straight", "smooth"] as const) {
      const curve = curveOf({ points: steep, join });
      for (const { at, value } of steep) expect(curve.at(at)).toBeCloseTo(value, 12);
      expect([curve.at(-5), curve.at(9)]).toEqual([0, -2]);
    }
  });

  it("straight, is the line between two points; bent, (1 − e^(−kt)) / (1 − e^(−k)) with k half the bend", () => {
    expect(curveOf({ points: steep, join: "straight" }).at(1.25)).toBeCloseTo(0.1 + 4.9 / 4, 12);
    for (const bend of [-10, -3, 3, 10]) {
      const bent = curveOf({
        points: [
          { at: 0, value: 0, bend },
          { at: 4, value: 8 }
        ],
        join: "straight"
      });
      const k = bend / 2;
      for (const t of [0.1, 0.5, 0.8])
        expect(bent.at(4 * t)).toBeCloseTo((8 * (1 - Math.exp(-k * t))) / (1 - Math.exp(-k)), 9);
    }
  });

  it("smooth, never overshoots: between two points it stays between their values, and its slope does not jump", () => {
    const curve = curveOf({ points: steep, join: "smooth" });
    steep.slice(1).forEach((to, i) => {
      const from = steep[i] as EnvelopePoint;
      const [low, high] = [Math.min(from.value, to.value), Math.max(from.value, to.value)];
      let last = from.value;
      for (let t = 0; t <= 1; t += 1 / 64) {
        const now = curve.at(from.at + t * (to.at - from.at));
        expect(now).toBeGreaterThanOrEqual(low - 1e-9);
        expect(now).toBeLessThanOrEqual(high + 1e-9);
        expect((now - last) * Math.sign(to.value - from.value)).toBeGreaterThanOrEqual(-1e-9);
        last = now;
      }
    });
    for (const { at } of steep.slice(1, -1)) {
      const [before, after] = [curve.at(at) - curve.at(at - 1e-6), curve.at(at + 1e-6) - curve.at(at)];
      expect(before / 1e-6).toBeCloseTo(after / 1e-6, 3);
    }
  });

  it("smooth, has the slopes of Fritsch and Carlson: worked by hand", () => {
    // Secants 1, 3, 0, 2. Between 1 and 3: mean 2, within the circle of radius 3 (2/3² + 2/1² …) limited on the first interval.
    expect(monotoneSlopes(points([0, 0], [1, 1], [2, 4], [3, 4], [4, 6]))).toEqual([1, 2, 0, 0, 2]);
    // Secants 1 and 100: mean 50.5; on the first interval (1, 50.5) has radius √(1 + 50.5²): scaled to 3.
    const scale = 3 / Math.hypot(1, 50.5);
    const [first, middle, last] = monotoneSlopes(points([0, 0], [1, 1], [2, 101]));
    expect(first).toBeCloseTo(scale, 12);
    expect(middle).toBeCloseTo(50.5 * scale, 12);
    expect(last).toBe(100);
  });
});

describe("fades that are bent and drawn", () => {
  const drawn: FadeShape = {
    curve: "drawn",
    points: [
      { at: 0.2, gain: 0.6 },
      { at: 0.5, gain: 0.5 }
    ],
    join: "straight"
  };

  it("go from silence to full level whatever the bend, and rise earlier the more they are bent up", () => {
    for (const curve of [
      "straight",
      "equalPower",
      "sShaped",
      "smooth",
      "logarithmic",
      "exponential"
    ] as const) {
      const at = (bend: number) => fadeGain(0.5, { curve, bend });
      expect([fadeGain(0, { curve, bend: 7 }), fadeGain(1, { curve, bend: 7 })]).toEqual([0, 1]);
      expect(at(-10) < at(-5) && at(-5) < at(0) && at(0) < at(5) && at(5) < at(10)).toBe(true);
    }
    // 1 / (1 + e^(-2.5)) at the middle, for bend 5 × 1 → k = 2.5 … from the formula above.
    expect(fadeGain(0.5, { curve: "straight", bend: 10 })).toBeCloseTo(
      (1 - Math.exp(-2.5)) / (1 - Math.exp(-5)),
      12
    );
  });

  it("drawn, pass through their points", () => {
    for (const [t, gain] of [
      [0, 0],
      [0.1, 0.3],
      [0.2, 0.6],
      [0.5, 0.5],
      [0.75, 0.75],
      [1, 1]
    ] as const)
      expect(fadeGain(t, drawn)).toBeCloseTo(gain, 12);
  });

  it.each([
    ["drawn straight", drawn],
    ["drawn smooth", { ...drawn, join: "smooth" }],
    ["bent", { curve: "equalPower", bend: -6 }],
    ["level power", { curve: "levelPower", correlation: 0.4 }]
  ] as [string, FadeShape][])("%s, sound as they are drawn, in blocks of any size", (_name, shape) => {
    const ones = new Float32Array(RATE).fill(1);
    const flat = new ArraySource({ ones: [ones, ones] });
    const clip = clipOf("ones", 10000, { fadeIn: { length: 3000, shape }, fadeOut: { length: 4001, shape } });
    const [out] = mixed(documentWith(clip), flat, 0, 10000, 500);
    out.forEach((x, i) => expect(x).toBeCloseTo(fadeGainAt(clip, i), 6));
    expect(mixed(documentWith(clip), flat, 0, 10000, 77)[0]).toEqual(out);
    expect(mixed(documentWith(clip), flat, 1234, 8000, 512)[0]).toEqual(out.subarray(1234, 9234));
  });
});

describe("laws of crossfades", () => {
  const power = (x: Float32Array) => x.reduce((sum, v) => sum + v * v, 0) / x.length;
  const N = 1 << 18;
  const one = noise(N, 0.25, 1);
  const other = noise(N, 0.25, 2);

  /** Power of a crossfade at t, in dB of that of one sound; averaged over all of the noise. */
  function levelDb(shape: FadeShape, correlation: number, t: number): number {
    const mixedIn = one.map((x, i) => correlation * x + Math.sqrt(1 - correlation ** 2) * (other[i] ?? 0));
    const [a, b] = [fadeGain(1 - t, shape), fadeGain(t, shape)];
    return 10 * Math.log10(power(one.map((x, i) => a * x + b * (mixedIn[i] ?? 0))) / power(one));
  }

  it("equal power keeps uncorrelated noise at 0 dB ± 0.01, and equal gain identical sound", () => {
    const [a, b] = [power(one), power(other)];
    const cross = one.reduce((sum, x, i) => sum + x * (other[i] ?? 0), 0) / N;
    for (const t of [0.1, 0.25, 0.5, 0.75, 0.9]) {
      const [out, into] = [fadeGain(1 - t, { curve: "equalPower" }), fadeGain(t, { curve: "equalPower" })];
      // What two finite noises happen to have in common is left out of account.
      const level = (out * out * a + into * into * b) / (out * out * a + into * into * a);
      expect(Math.abs(10 * Math.log10(level * (a / b) ** (into * into)))).toBeLessThan(0.01);
      expect(Math.abs(cross / a)).toBeLessThan(0.01);
      for (const shape of [{ curve: "straight" }, crossShape(1)] as FadeShape[])
        expect(fadeGain(1 - t, shape) + fadeGain(t, shape)).toBeCloseTo(1, 9);
    }
  });

  it.each([0, 0.2, 0.5, 0.8, 1])(
    "the law of a measured correlation keeps mixtures of %s level within 0.1 dB",
    (correlation) => {
      for (const t of [0.05, 0.2, 0.35, 0.5, 0.65, 0.8, 0.95])
        expect(Math.abs(levelDb(crossShape(correlation), correlation, t))).toBeLessThan(0.1);
    }
  );

  it("equal power of identical sound would be 3 dB too loud in the middle: the measured law is not", () => {
    expect(levelDb({ curve: "equalPower" }, 1, 0.5)).toBeCloseTo(3.01, 2);
    expect(levelDb(crossShape(1), 1, 0.5)).toBeCloseTo(0, 6);
  });
});

describe("lines", () => {
  const ones = new Float32Array(2 * RATE).fill(1);
  const flat = new ArraySource({ ones: [ones, ones], a: [ones, ones] });
  const line = {
    points: [
      { at: 5000, value: 0 },
      { at: 9000, value: -20, bend: 4 },
      { at: 15000, value: 6 },
      { at: 15001, value: -96 },
      { at: 20000, value: -96 }
    ],
    join: "straight" as const
  };

  it("of a clip lie on its recording and sound sample for sample as they are drawn, at any block size", () => {
    const clip = clipOf("ones", 16000, { offset: 3000, line, fadeIn: fade(500, "smooth") });
    const [out] = mixed(documentWith(clip), flat, 0, 16000, 512);
    out.forEach((x, i) => expect(x).toBeCloseTo(shapeGainAt(clip, i), 5));
    expect(out[9000 - 3000]).toBeCloseTo(0.1, 6);
    expect(out[15000 - 3000]).toBeCloseTo(10 ** (6 / 20), 5);
    expect(out.subarray(15001 - 3000).every((x) => x === 0)).toBe(true);
    expect(mixed(documentWith(clip), flat, 0, 16000, 61)[0]).toEqual(out);
  });

  it("stay where they are when a clip is trimmed, slipped and split", () => {
    const doc = documentWith(clipOf("ones", 16000, { offset: 3000, line }));
    const [id] = [...doc.values("clips")].map((c) => c.id);
    const cut = applyCommand(doc, {
      type: "clip.cut",
      cuts: [{ clipId: id ?? "", at: [6100] }],
      blend: 0,
      seed: "n"
    }).document;
    expect(mixed(cut, flat, 0, 16000, 512)).toEqual(mixed(doc, flat, 0, 16000, 512));
  });

  it("of a track change gain and pan over the timeline, with a chain and without, the same in every block size", () => {
    const panLine = {
      points: [
        { at: 0, value: -1 },
        { at: 10000, value: 1 }
      ],
      join: "straight" as const
    };
    const bare = documentWith(clipOf("ones", 20000));
    const [trackId] = [...bare.values("tracks")].map((t) => t.id);
    const lined = applyCommand(bare, { type: "track.set", trackId: trackId ?? "", gainLine: line, panLine });
    const [l, r] = mixed(lined.document, flat, 0, 20000, 512);
    for (const i of [0, 2500, 5000, 7777, 12000]) {
      const pan = Math.max(-1, Math.min(1, -1 + i / 5000));
      const far = Math.cos((Math.abs(pan) * Math.PI) / 2);
      expect(l[i]).toBeCloseTo(lineGain(line, i) * (pan > 0 ? far : 1), 5);
      expect(r[i]).toBeCloseTo(lineGain(line, i) * (pan < 0 ? far : 1), 5);
    }
    expect(mixed(lined.document, flat, 0, 20000, 100)).toEqual([l, r]);
    const chained = project({ track: [{ ...step("gain", { gainDb: 0 }), id: "g" } as never] });
    const withLines = applyCommand(chained, {
      type: "track.set",
      trackId: "t",
      gainLine: line,
      panLine
    }).document;
    const [cl] = mixed(withLines, flat, 0, 20000, 512);
    for (const i of [2500, 7777, 12000]) expect(cl[i]).toBeCloseTo(l[i] ?? 0, 5);
    expect(findClip(withLines, "k")?.track.gainLine).toEqual(line);
    expect(newTrack("x", "X", 1).gainLine).toBeUndefined();
  });
});
