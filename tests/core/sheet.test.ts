// The sheet: levels within a stretch, begun again where something changed, and what it says of a chain.
import { afterAll, describe, expect, it } from "vitest";
import { adviceOn, type AdvisedStep, type AdviceKind } from "../../src/lib/core/render/advice";
import type { ChainAnalysis } from "../../src/lib/core/render/chainAnalysis";
import { analysePart, barePart } from "../../src/lib/core/render/clipAnalysis";
import { SheetMemory, type Within } from "../../src/lib/core/render/sheetMemory";
import type { SoundPart } from "../../src/lib/core/render/soundPart";
import { recorded } from "./recorded";
import { ArraySource, clipOf, noise, RATE, sine } from "./signals";

const speech = recorded("speech", RATE);
const FRAMES = 3 * RATE;
const sound = speech.left.slice(0, FRAMES);
const source = new ArraySource({ a: [sound, sound] });

type StepText = {
  readonly id: string;
  readonly effect: string;
  readonly params: Record<string, number | boolean | string>;
};
const chain: StepText[] = [
  { id: "g", effect: "gain", params: { gainDb: 6 } },
  { id: "e", effect: "parametric-eq", params: { on1: true, type1: "highPass", freq1: 200 } },
  { id: "l", effect: "limiter", params: { gainDb: 10 } }
];
const partWith = (steps: readonly StepText[], of = "a", frames = FRAMES) =>
  barePart(clipOf(of, frames, { steps }));

function fresh(part: SoundPart, within?: Within, from = source): ChainAnalysis {
  const analyser = analysePart(part, null, from, RATE, 60, { within });
  while (!analyser.advance(1 << 16));
  const result = analyser.result();
  analyser.release();
  return result;
}

describe("levels within a stretch", () => {
  it("are those of the stretch alone, behind the whole chain", () => {
    const within = { from: RATE, to: 2 * RATE };
    const loudMiddle = Float32Array.from(sine(1000, -40, FRAMES), (x, i) =>
      i >= within.from && i < within.to ? x * 10 : x
    );
    const sources = new ArraySource({ a: [loudMiddle, loudMiddle] });
    const { stages } = fresh(partWith(chain.slice(0, 1)), within, sources);
    // A sine of -20 dBFS, raised by 6: -14 dBFS of peak. Without the stretch it would hear -40 as well.
    expect(stages.map((s) => s.measurement?.samplePeakDbfs)).toEqual([
      expect.closeTo(-20, 2),
      expect.closeTo(-14, 2)
    ]);
    const quiet = fresh(partWith(chain.slice(0, 1)), { from: 0, to: RATE }, sources);
    expect(quiet.stages[0].measurement?.samplePeakDbfs).toBeCloseTo(-40, 2);
  });
});

describe("a sheet that was measured before", () => {
  const memory = new SheetMemory();
  afterAll(() => memory.release());

  /** Analyses by the memory; tells how much of the chain was run. */
  function again(
    part: SoundPart,
    within?: Within
  ): { result: ChainAnalysis; run: number; begun: string | undefined } {
    const plan = memory.plan(part, within);
    const analyser = analysePart(part, null, source, RATE, 60, { ...plan, within });
    while (!analyser.advance(1 << 16));
    const found = analyser.result();
    analyser.release();
    return {
      result: memory.complete(part, within, plan, found),
      run: found.stages.length,
      begun: plan.from?.after
    };
  }

  /** Levels and pictures within 0.01 dB: a limiter looks ahead into silence at a kept point's end. */
  function alikeTo(a: ChainAnalysis, b: ChainAnalysis): void {
    expect(a.stages.map((s) => [s.stepId, s.changed])).toEqual(b.stages.map((s) => [s.stepId, s.changed]));
    a.stages.forEach(({ measurement }, i) => {
      expect(measurement?.integratedLufs).toBeCloseTo(b.stages[i].measurement?.integratedLufs ?? NaN, 2);
      expect(measurement?.truePeakDbtp).toBeCloseTo(b.stages[i].measurement?.truePeakDbtp ?? NaN, 2);
    });
    expect(a.output?.integratedLufs).toBeCloseTo(b.output?.integratedLufs ?? NaN, 2);
    expect([...a.before]).toEqual([...b.before]);
  }

  const changed = (index: number, params: StepText["params"]) =>
    chain.map((step, i) => (i === index ? { ...step, params } : step));

  it("begins before the last step when that is changed, and says the same as from the beginning", () => {
    expect(again(partWith(chain)).begun).toBeUndefined();
    const part = partWith(changed(2, { gainDb: 3 }));
    const { result, run, begun } = again(part);
    expect([run, begun]).toEqual([1, "e"]);
    alikeTo(result, fresh(part));
  });

  it("begins before an earlier step from its second change on", () => {
    const first = again(partWith(changed(1, { on1: true, type1: "highPass", freq1: 300 })));
    expect(first.run).toBe(4);
    const part = partWith(changed(1, { on1: true, type1: "highPass", freq1: 500 }));
    const second = again(part);
    expect([second.run, second.begun]).toEqual([2, "g"]);
    alikeTo(second.result, fresh(part));
  });

  it("begins anew for another sound, another stretch, and where the first step was changed", () => {
    again(partWith(chain));
    expect(again(partWith(chain), { from: 0, to: RATE }).begun).toBeUndefined();
    again(partWith(chain));
    expect(again(partWith(changed(0, { gainDb: 1 }))).begun).toBeUndefined();
    again(partWith(chain));
    expect(again(partWith(chain, "a", RATE)).begun).toBeUndefined();
  });

  it("goes with steps that are switched off, removed and added", () => {
    again(partWith(chain));
    for (const steps of [
      chain.slice(0, 2),
      [...chain, { id: "t", effect: "tone", params: { bassDb: 4 } }],
      chain.slice(1)
    ]) {
      const part = partWith(steps);
      alikeTo(again(part).result, fresh(part));
    }
  });
});

describe("what a sheet says of a chain", () => {
  /** The steps with their levels as they are measured. */
  function advised(steps: readonly StepText[], x: Float32Array = sound): AdvisedStep[] {
    const { stages } = fresh(partWith(steps, "a", x.length), undefined, new ArraySource({ a: [x, x] }));
    return steps.map(({ id, effect, params }, i) => {
      const [before, after] = [stages[i].measurement, stages[i + 1].measurement];
      if (!before || !after) throw new Error("Nothing was measured.");
      return { id, effect, params, before, after, changed: stages[i + 1].changed };
    });
  }
  const said = (steps: readonly StepText[], x?: Float32Array): [string, AdviceKind][] =>
    adviceOn(advised(steps, x)).map(({ stepId, kind }) => [stepId, kind]);
  const tone = sine(440, -12, RATE);
  const one = (effect: string, params: StepText["params"] = {}, id = "s"): StepText => ({
    id,
    effect,
    params
  });

  it("a step that clips, unless something behind it brings the peaks down", () => {
    expect(said([one("gain", { gainDb: 18 })], tone)).toEqual([["s", "clips"]]);
    expect(said([one("gain", { gainDb: 18 }), one("gain", { gainDb: -12 }, "b")], tone)).toEqual([]);
    expect(said([one("gain", { gainDb: 3 })], tone)).toEqual([]);
    // The one that does it, not those behind it.
    expect(said([one("gain", { gainDb: 18 }), one("tone", { bassDb: 3 }, "b")], tone)).toEqual([
      ["s", "clips"]
    ]);
  });

  it("a limiter that takes more than 12 dB", () => {
    expect(said([one("limiter", { gainDb: 26, ceilingDb: -1 })], tone)).toEqual([["s", "hard-limiting"]]);
    expect(said([one("limiter", { gainDb: 20, ceilingDb: -1 })], tone)).toEqual([]);
  });

  it.each(["expander", "gate"])("an %s that never opens", (effect) => {
    expect(said([one(effect, { thresholdDb: -6 })], tone)).toEqual([["s", "never-opens"]]);
    expect(said([one(effect, { thresholdDb: -30 })], sound)).not.toContainEqual(["s", "never-opens"]);
  });

  it("a step that changes nothing, and none that turns or swaps", () => {
    expect(said([one("parametric-eq")], tone)).toEqual([["s", "changes-nothing"]]);
    expect(said([one("gain", { gainDb: 0 })], tone)).toEqual([["s", "changes-nothing"]]);
    for (const step of [one("polarity"), one("reverse"), one("gain", { gainDb: 0.1 }), one("delay")])
      expect(said([step], tone)).toEqual([]);
    // One that is not known here cannot be set otherwise: that it is kept is said instead.
    expect(said([one("gravity")], tone)).toEqual([["s", "unknown-effect"]]);
    // One click in a second of sound is mended: that is a change.
    const clicked = Float32Array.from(sine(300, -20, 2 * RATE));
    clicked[RATE] = 0.9;
    expect(said([one("click-repair")], clicked)).toEqual([]);
  });

  it("a reverb before a noise reduction", () => {
    const hiss = noise(2 * RATE, 0.02);
    const noisy = Float32Array.from(sound.slice(0, 2 * RATE), (x, i) => x + hiss[i]);
    const [room, cleaner] = [one("reverb", {}, "r"), one("noise-reduction", {}, "n")];
    expect(said([room, cleaner], noisy)).toContainEqual(["n", "reverb-before-noise"]);
    expect(said([cleaner, room], noisy)).not.toContainEqual(["n", "reverb-before-noise"]);
  });

  it("a noise reduction that waits for a profile: it takes nothing until then", () => {
    const hiss = noise(2 * RATE, 0.02);
    expect(said([one("noise-reduction", { source: "ask" })], hiss)).toEqual([["s", "wants-profile"]]);
    expect(said([one("noise-reduction", { source: "learn" })], hiss)).toEqual([]);
  });

  it("with the number in its sentence", () => {
    const [advice] = adviceOn(advised([one("limiter", { gainDb: 26, ceilingDb: -1 })], tone));
    expect(advice.text).toMatch(/^It takes 15\.\d dB off the highest peak/);
  });
});
