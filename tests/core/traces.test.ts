// What pictures are drawn from: spectra over time, a step before and after, how rooms die away, how voices move.
import { describe, expect, it } from "vitest";
import { chorusModulation } from "../../src/lib/core/effects/chorus";
import { decayCurve } from "../../src/lib/core/effects/decayCurve";
import { completeParams, effectOf } from "../../src/lib/core/effects/registry";
import { delayAt } from "../../src/lib/core/effects/modulatedDelay";
import { spectraFromJson, spectraToJson } from "../../src/lib/core/measure/spectraJson";
import {
  bandHertz,
  meanSpectrum,
  SpectrumColumns,
  type Spectra
} from "../../src/lib/core/measure/spectrumColumns";
import { analysePart, barePart } from "../../src/lib/core/render/clipAnalysis";
import { SheetMemory } from "../../src/lib/core/render/sheetMemory";
import { ArraySource, clipOf, EVERY_EFFECT, eachBlock, noise, RATE, sine, throughChain } from "./signals";

function spectra(x: Float32Array, columns = 50): Spectra {
  const gather = new SpectrumColumns(RATE, x.length, columns, 64);
  eachBlock(x, x, 512, (l, r, n) => gather.push(l, r, n));
  const result = gather.result();
  gather.release();
  return result;
}

const bandOf = (hertz: number) =>
  Array.from({ length: 64 }, (_, b) => Math.abs(Math.log(bandHertz(b, 64) / hertz))).reduce(
    (best, d, b, all) => (d < all[best] ? b : best),
    0
  );

describe("spectra over time", () => {
  it.each([200, 1000, 5000])(
    "tell a sine of %d Hz in its band at its level, and nothing far from it",
    (hertz) => {
      const levels = meanSpectrum(spectra(sine(hertz, -20, 2 * RATE)));
      const band = bandOf(hertz);
      // Between two lines of the transform a Hann window loses 1.4 dB at most.
      expect(Math.max(...levels.slice(band - 1, band + 2))).toBeGreaterThan(-21.6);
      expect(Math.max(...levels)).toBeLessThan(-19.5);
      expect(levels[bandOf(hertz * 8 > 20000 ? hertz / 20 : hertz * 8)]).toBeLessThan(-90);
    }
  );

  it("follow the sound in time", () => {
    const x = sine(1000, -20, 2 * RATE).map((v, i) => (i < RATE ? v : 0));
    const { columns, bands, levels } = spectra(x);
    const at = (c: number) => levels[c * bands + bandOf(1000)];
    expect(at(5)).toBeGreaterThan(180);
    expect(at(columns - 5)).toBeLessThan(20);
  });

  it("of a sound shorter than a window are one column; as JSON they are the same", () => {
    const short = spectra(sine(1000, -20, 800));
    expect(short.columns).toBe(1);
    const whole = spectra(noise(RATE, 0.3));
    expect(spectraFromJson(JSON.parse(JSON.stringify(spectraToJson(whole))) as never)).toEqual(whole);
  });
});

describe("a step over time", () => {
  const x = noise(RATE, 0.5).map((v, i) => (i < RATE / 2 ? v : v * 0.01));
  const source = new ArraySource({ a: [x, x] });
  const steps: { id: string; effect: string; params: Record<string, number> }[] = [
    { id: "g", effect: "gain", params: { gainDb: -6 } },
    { id: "l", effect: "limiter", params: { ceilingDb: -20 } },
    { id: "h", effect: "gain", params: { gainDb: 3 } }
  ];
  const part = barePart(clipOf("a", RATE, { steps }));

  it("is what comes to it and what leaves it, in step in spite of its delay", () => {
    const analyser = analysePart(part, null, source, RATE, 60, { traced: "l" });
    while (!analyser.advance(1 << 15));
    const { trace } = analyser.result();
    analyser.release();
    if (!trace) throw new Error("There is no trace.");
    const columns = trace.inPeaks.length;
    const before = trace.inPeaks.subarray(0, columns / 2 - 2);
    expect(Math.max(...before)).toBeCloseTo(0.25, 1);
    expect(Math.max(...trace.outPeaks)).toBeLessThan(0.1001);
    expect(Math.max(...trace.outPeaks.subarray(columns / 2 + 2))).toBeCloseTo(
      Math.max(...trace.inPeaks.subarray(columns / 2 + 2)),
      4
    );
    expect(trace.inSpectra.columns).toBe(trace.outSpectra.columns);
  });

  it("names the places that a repair has touched, and no others", () => {
    const clicked = Float32Array.from(sine(300, -20, 2 * RATE));
    const at = [30000, 70000];
    for (const i of at) clicked[i] = 0.9;
    const one = barePart(clipOf("a", 2 * RATE, { steps: [{ id: "c", effect: "click-repair", params: {} }] }));
    const analyser = analysePart(one, null, new ArraySource({ a: [clicked, clicked] }), RATE, 60, {
      traced: "c"
    });
    while (!analyser.advance(1 << 15));
    const { trace } = analyser.result();
    analyser.release();
    expect(trace?.changed).toEqual(at.map((i) => Math.floor((i * 600) / (2 * RATE))));
  });

  it("is heard anew when the kept sound lies behind it", () => {
    const memory = new SheetMemory();
    const once = (traced?: string) => {
      const plan = memory.plan(part, undefined, traced === undefined ? {} : { traced });
      const analyser = analysePart(part, null, source, RATE, 60, {
        ...plan,
        ...(traced === undefined ? {} : { traced })
      });
      while (!analyser.advance(1 << 15));
      const result = memory.complete(part, undefined, plan, analyser.result());
      analyser.release();
      return { begun: plan.from?.after, trace: result.trace, stages: result.stages.length };
    };
    expect(once()).toMatchObject({ begun: undefined, trace: undefined });
    expect(once("h")).toMatchObject({ begun: "l", trace: { stepId: "h" }, stages: 4 });
    expect(once("g")).toMatchObject({ begun: undefined, trace: { stepId: "g" }, stages: 4 });
    memory.release();
  });
});

describe("how a room dies away", () => {
  it("by 60 dB in the time that is set, within a quarter", () => {
    const params = completeParams(effectOf("reverb"), {
      decayS: 1.2,
      sizePercent: 40,
      highDecayPercent: 100
    });
    const { levels, seconds } = decayCurve("reverb", params, RATE, 2, 200);
    const first = levels.indexOf(0);
    // A straight line from -5 to -35 dB, as ISO 3382 has it for T30.
    const at = (db: number) => ((levels.findIndex((l, i) => i > first && l < db) - first) / 200) * seconds;
    const t60 = 2 * (at(-35) - at(-5));
    expect(t60).toBeGreaterThan(0.9);
    expect(t60).toBeLessThan(1.5);
  });

  it("echoes come where the delay puts them", () => {
    const params = completeParams(effectOf("delay"), { timeMs: 250, feedbackPercent: 50 });
    const { levels } = decayCurve("delay", params, RATE, 1, 100);
    const loud = levels.flatMap((l, i) => (l > -20 ? [i] : []));
    expect(loud.some((i) => Math.abs(i - 25) <= 1)).toBe(true);
    expect(loud.some((i) => Math.abs(i - 50) <= 1)).toBe(true);
  });
});

describe("how a voice moves", () => {
  it("is what is heard: a click comes out by that delay", () => {
    const given = { voices: 1, delayMs: 20, depthMs: 5, rateHz: 0.5, spreadDegrees: 90, mixPercent: 100 };
    const m = chorusModulation(completeParams(effectOf("chorus"), given));
    for (const second of [0.1, 0.5, 1.3]) {
      const x = new Float32Array(2 * RATE);
      const at = Math.round(second * RATE);
      x[at] = 1;
      const out = throughChain([{ effect: "chorus", on: true, params: given }], x);
      out.forEach((y, side) => {
        let peak = 0;
        y.forEach((v, i) => {
          if (Math.abs(v) > Math.abs(y[peak])) peak = i;
        });
        // When it is heard the voice has moved on by the delay itself.
        const delay = delayAt(m, 0, side as 0 | 1, peak / RATE);
        expect(Math.abs((peak - at) / RATE - delay)).toBeLessThan(0.00005);
      });
    }
  });
});

describe("a clip of ten milliseconds", () => {
  const frames = RATE / 100;
  const x = noise(frames, 0.3);
  const source = new ArraySource({ a: [x, x] });

  it.each(EVERY_EFFECT.map((step) => step.effect))("is measured and drawn with %s on it", (effect) => {
    const steps = EVERY_EFFECT.filter((step) => step.effect === effect).map((step) => ({ ...step, id: "s" }));
    const part = barePart(clipOf("a", frames, { steps }));
    const analyser = analysePart(part, null, source, RATE, 20, { traced: "s", spectra: true });
    while (!analyser.advance(1 << 14));
    const { stages, trace, spectra } = analyser.result();
    analyser.release();
    expect(stages).toHaveLength(2);
    expect(trace?.inSpectra.columns).toBe(1);
    expect(spectra?.after.columns).toBe(1);
    expect(Math.max(...(trace?.inPeaks ?? []))).toBeCloseTo(Math.max(...x.map(Math.abs)), 6);
  });
});
