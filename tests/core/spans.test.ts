// A step that treats a stretch: g·P(x) + (1−g)·x without a tail, P(g·x) + (1−g)·x with one, and nothing outside.
import { describe, expect, it } from "vitest";
import { chainTiming, soundEnd, type StepSpec } from "../../src/lib/core/effects/chain";
import { defaultParams } from "../../src/lib/core/effects/description";
import { profileToText } from "../../src/lib/core/effects/noiseProfile";
import { effectOf, effects } from "../../src/lib/core/effects/registry";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { kernels } from "../../src/lib/core/kernels/instance";
import { applyCommand, type Command } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { resolveClip, type ResolvedClip } from "../../src/lib/core/session/lookup";
import { newStep } from "../../src/lib/core/session/make";
import type { Step } from "../../src/lib/core/session/schema";
import { recorded } from "./recorded";
import {
  ArraySource,
  clipOf,
  documentWith,
  EVERY_EFFECT,
  fade,
  mixed,
  noise,
  RATE,
  same,
  sine,
  step,
  throughChain
} from "./signals";

const speech = recorded("speech", RATE);
const sound = speech.left.map((x, i) => x * 0.3 + (noise(1, 0.001, i + 1)[0] ?? 0));
// Clicks, for the effect that repairs them.
for (let i = 3000; i < sound.length; i += 7001) sound[i] = 0.8;
// A pop of breath within the span, for the effect that tames them.
for (let i = 0; i < 9600; i++)
  sound[52000 + i] += 0.4 * Math.exp(-i / 1900) * Math.sin((2 * Math.PI * 30 * i) / RATE);
const source = new ArraySource({ a: [sound, sound.map((x) => x * 0.8)] });
const LENGTH = 2 * RATE;
const OFFSET = 9600;
const SPAN = { from: OFFSET + 30000, to: OFFSET + 60000 };

/** Settings with which effects that wait for something find it in this sound. */
const EAGER: Record<string, StepSpec["params"]> = {
  gate: { thresholdDb: -20 },
  "de-esser": { thresholdDb: -60 },
  "click-repair": { sensitivityPercent: 100 },
  leveller: { towards: "level", levelDb: -10 },
  "plosive-removal": { overDb: 6 },
  declip: { level: "set", levelDb: -20 },
  // In half a second of clear speech it would find no noise.
  "noise-reduction": {
    source: "carried",
    profile: profileToText({ sampleRate: RATE, power: new Float64Array(1025).fill(1e-5) })
  }
};

/** An effect with settings that are heard, as EVERY_EFFECT has them; delays and reverbs short enough to be run in. */
function audible(id: string): StepSpec {
  const eager = EAGER[id];
  if (eager) return step(id, eager);
  const known = EVERY_EFFECT.find((s) => s.effect === id);
  return known ?? step(id, defaultParams(effectOf(id)));
}

function spanned(id: string, span: Step["span"] = SPAN): Step {
  const { effect, params } = audible(id);
  return { ...newStep("x", effect, params), span };
}

function clipWith(steps: readonly Step[], change: Partial<ResolvedClip> = {}): ResolvedClip {
  return { ...clipOf("a", LENGTH, { offset: OFFSET }), chain: "c", steps, ...change };
}

function play(clip: ResolvedClip, from = 0, frames = LENGTH, size?: number): Float32Array {
  return mixed(documentWith(clip), source, from, frames, size)[0];
}

const worst = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, x, i) => Math.max(most, Math.abs(x - (b[i] ?? NaN))), 0);

const window = sound.slice(OFFSET, OFFSET + LENGTH);
const [from, to] = [SPAN.from - OFFSET, SPAN.to - OFFSET];

describe("a span, on every effect", () => {
  it.each(effects.map((e) => [e.id]))(
    "%s: outside, but for a tail, the output is the input bit for bit",
    (id) => {
      const out = play(clipWith([spanned(id)]));
      expect(same(out.subarray(0, from), window.subarray(0, from))).toBe(true);
      const { tail } = chainTiming([audible(id)], RATE);
      if (tail === 0) expect(same(out.subarray(to), window.subarray(to))).toBe(true);
      const { settle, latency } = chainTiming([audible(id)], RATE);
      expect(
        same(
          out.subarray(Math.min(LENGTH, to + settle + latency)),
          window.subarray(Math.min(LENGTH, to + settle + latency))
        )
      ).toBe(true);
      expect(worst(out.subarray(from, to), window.subarray(from, to))).toBeGreaterThan(0);
    }
  );

  it.each(effects.map((e) => [e.id]))("%s: any block size gives the same samples", (id) => {
    const clip = clipWith([newStep("l", "limiter", { gainDb: 3 }), spanned(id)]);
    const whole = play(clip, 0, 60000);
    for (const size of [1, 93, 512])
      expect(
        same(play(clip, 0, size === 1 ? 6000 : 60000, size), whole.subarray(0, size === 1 ? 6000 : 60000))
      ).toBe(true);
  });

  it.each(effects.map((e) => [e.id]))(
    "%s: a start anywhere sounds as from the beginning: below -90 dBFS",
    (id) => {
      const clip = clipWith([spanned(id)]);
      const whole = play(clip);
      for (const at of [10000, 30100, 45001, 61234]) {
        const part = play(clip, at, 12000);
        expect(
          20 * Math.log10(worst(part, whole.subarray(at, at + 12000)) + 1e-12),
          `from ${at}`
        ).toBeLessThan(-90);
      }
    }
  );

  it.each(effects.map((e) => [e.id]))(
    "%s: what is rendered is what was previewed, handles included or not",
    (id) => {
      const clip = clipWith([spanned(id)]);
      const parts: Float32Array[] = [];
      renderClip(
        { clip, sampleRate: RATE, recordingFrames: sound.length, handleFrames: 4800, tailFrames: 0 },
        source,
        (l, _r, n) => parts.push(new Float32Array(kernels.memory.buffer, l, n).slice())
      );
      const made = Float32Array.from(parts.flatMap((p) => [...p]));
      expect(same(made.subarray(4800, 4800 + LENGTH), play(clip))).toBe(true);
    }
  );

  it("switched off is as if it were not there, and so is a span that the clip does not show", () => {
    for (const { id } of effects) {
      const off = { ...spanned(id), on: false };
      expect(same(play(clipWith([off])), window)).toBe(true);
      const elsewhere = spanned(id, { from: OFFSET + LENGTH + 10, to: OFFSET + LENGTH + 5000 });
      expect(same(play(clipWith([elsewhere])), window)).toBe(true);
    }
  });
});

describe("the blend at a span's ends", () => {
  const flat = new Float32Array(RATE).fill(0.5);
  const ones = new ArraySource({ a: [flat, flat] });
  const gainDown = (edgeMs?: number): Step => ({
    ...newStep("g", "gain", { gainDb: -20 }),
    span: { from: 10000, to: 20000, ...(edgeMs === undefined ? {} : { edgeMs }) }
  });

  it.each([
    ["left to itself", undefined, 240],
    ["of 0 ms", 0, 0],
    ["of 1 ms", 1, 48],
    ["of 100 ms", 100, 4800],
    ["longer than half of the span, which takes half", 500, 5000]
  ])("%s is a raised cosine inside the span", (_, edgeMs, edge) => {
    const clip = clipOf("a", RATE);
    const [out] = mixed(documentWith({ ...clip, chain: "c", steps: [gainDown(edgeMs)] }), ones, 0, RATE);
    for (let i = 9000; i < 21000; i += 1) {
      const inside = Math.min(i - 10000, 19999 - i);
      const g = inside < 0 ? 0 : inside >= edge ? 1 : 0.5 - 0.5 * Math.cos((Math.PI * (inside + 0.5)) / edge);
      expect(out[i]).toBeCloseTo(0.5 * (g * 0.1 + 1 - g), 6);
    }
  });

  it("makes no click: a sine is never steeper than treated or untreated", () => {
    const tone = sine(200, -6, RATE);
    const tones = new ArraySource({ a: [tone, tone] });
    const clip = { ...clipOf("a", RATE), chain: "c", steps: [gainDown()] };
    const [out] = mixed(documentWith(clip), tones, 0, RATE);
    const steepest = out.reduce((a, x, i) => (i === 0 ? 0 : Math.max(a, Math.abs(x - (out[i - 1] ?? 0)))), 0);
    expect(steepest).toBeLessThan(((2 * Math.PI * 200) / RATE) * 0.5 * 1.01);
  });

  it("lets what rings ring on: the echo of a span comes after it, what comes later has none", () => {
    const clicks = new Float32Array(RATE);
    clicks[12000] = 1;
    clicks[30000] = 1;
    const where = new ArraySource({ a: [clicks, clicks] });
    const echo: Step = {
      ...newStep("d", "delay", { timeMs: 200, feedbackPercent: 0, mixPercent: 50, dampingHz: 20000 }),
      span: { from: 10000, to: 20000 }
    };
    const [out] = mixed(documentWith({ ...clipOf("a", RATE), chain: "c", steps: [echo] }), where, 0, RATE);
    const heard = [...out].flatMap((x, i) => (x === 0 ? [] : [[i, x]]));
    expect(heard).toEqual([
      [12000, 0.5],
      [21600, 0.5],
      [30000, 1]
    ]);
  });

  it("adds the tail of a step to the end of the sound only as far as its span lets sound in", () => {
    const echo = step("delay", { timeMs: 1000, feedbackPercent: 0 });
    expect(soundEnd([echo], RATE, 100000)).toBe(148000);
    expect(soundEnd([{ ...echo, span: { from: 0, to: 10000 } }], RATE, 100000)).toBe(100000);
    expect(soundEnd([{ ...echo, span: { from: 0, to: 90000 } }], RATE, 100000)).toBe(138000);
  });
});

describe("a step with a span that hears all of its sound first", () => {
  it("normalize learns from its span alone", () => {
    const loud = sound.slice();
    for (let i = 5000; i < 6000; i++) loud[i + OFFSET] = 0.99 * Math.sin(i);
    const where = new ArraySource({ a: [loud, loud] });
    const steps = [{ ...newStep("n", "normalize", { target: "peak", levelDb: -6 }), span: SPAN }];
    const [out] = mixed(documentWith(clipWith(steps)), where, 0, LENGTH);
    const peak = out.subarray(from + 240, to - 240).reduce((a, x) => Math.max(a, Math.abs(x)), 0);
    const inside = window.subarray(from, to).reduce((a, x) => Math.max(a, Math.abs(x)), 0);
    const gain = 10 ** (-6 / 20) / inside;
    expect(peak).toBeCloseTo(
      window.subarray(from + 240, to - 240).reduce((a, x) => Math.max(a, Math.abs(x * gain)), 0),
      4
    );
  });

  it("reverse turns its span round, and nothing else", () => {
    const steps = [{ ...newStep("r", "reverse"), span: { ...SPAN, edgeMs: 0 } }];
    const out = play(clipWith(steps));
    expect(same(out.slice(from, to), window.slice(from, to).reverse())).toBe(true);
    expect(same(out.subarray(to), window.subarray(to))).toBe(true);
  });

  it("fade counts from its span's ends", () => {
    const steps = [
      { ...newStep("f", "fade", { inS: 0.1, inCurve: "straight" }), span: { ...SPAN, edgeMs: 0 } }
    ];
    const [treated] = throughChain([step("fade", { inS: 0.1, inCurve: "straight" })], window.slice(from, to));
    expect(same(play(clipWith(steps)).slice(from, to), treated)).toBe(true);
  });
});

describe("a span stays on the same sound", () => {
  const treated = clipWith([{ ...newStep("g", "gain", { gainDb: -12 }), span: SPAN }], {
    start: 5000,
    fadeOut: fade(0, "straight")
  });
  const doc = documentWith(treated);
  const whole = mixed(doc, source, 0, 150000)[0];
  const run = (command: Command): Document => applyCommand(doc, command).document;
  const spanOf = (d: Document, clipId: string) => {
    const clip = d.get("clips", clipId);
    return clip && resolveClip(d, clip).steps[0]?.span;
  };
  const clipId = treated.id;

  it("through a trim", () => {
    const next = run({ type: "clip.trim", clipId, start: 25000, offset: OFFSET + 20000, length: 50000 });
    expect(spanOf(next, clipId)).toEqual(SPAN);
    expect(same(mixed(next, source, 25000, 50000)[0], whole.slice(25000, 75000))).toBe(true);
  });

  it("through a split in the middle of it: both parts sound as the whole did", () => {
    const next = run({ type: "clip.split", clipId, at: 50000, newId: "b", chainId: "cb", stepIds: ["gb"] });
    expect(spanOf(next, clipId)).toEqual(SPAN);
    expect(spanOf(next, "b")).toEqual(SPAN);
    expect(next.get("clips", "b")?.chain).toBe("cb");
    expect(same(mixed(next, source, 0, 150000)[0], whole)).toBe(true);
  });

  it("through a move", () => {
    const next = run({ type: "clip.move", clipId, trackId: "track-1", start: 15000 });
    expect(same(mixed(next, source, 10000, 100000)[0], whole.slice(0, 100000))).toBe(true);
  });

  it("through a slip: the window moves over the sound, the span does not", () => {
    const next = run({ type: "clip.trim", clipId, start: 5000, offset: OFFSET + 7000, length: LENGTH });
    expect(spanOf(next, clipId)).toEqual(SPAN);
    expect(same(mixed(next, source, 5000, 80000)[0], whole.slice(12000, 92000))).toBe(true);
  });
});

describe("commands for spans", () => {
  const clips = ["a", "b", "c"].map((id, i) => ({
    ...clipOf("a", 48000, { start: i * 48000, offset: 1000 * i }),
    id: `clip-${id}`,
    chain: `chain-clip-${id}`,
    steps: [newStep(`s${id}`, "gain", { gainDb: 1 })]
  }));
  const doc = documentWith(...clips);
  const owner = (id: string) => ({ table: "clips" as const, id: `clip-${id}` });
  const steps = ["a", "b", "c"].map((id) => ({ owner: owner(id), stepId: `s${id}` }));
  const spans = (d: Document) =>
    ["a", "b", "c"].map((id) => d.get("chains", `chain-clip-${id}`)?.steps[0]?.span ?? null);

  it("give each clip its part of a range of the timeline, in frames of its recording", () => {
    const next = applyCommand(doc, { type: "span.set", steps, range: { from: 40000, to: 60000 } }).document;
    expect(spans(next)).toEqual([{ from: 40000, to: 48000 }, { from: 1000, to: 13000 }, null]);
  });

  it("refuse a range in which none of the clips lies", () => {
    expect(() => applyCommand(doc, { type: "span.set", steps, range: { from: 200000, to: 210000 } })).toThrow(
      "None of the steps' sound lies within the range."
    );
  });

  it("make whole, move, trim, and keep the length of the blend", () => {
    const set = applyCommand(doc, {
      type: "span.set",
      steps,
      range: { from: 0, to: 20000 },
      edgeMs: 20
    }).document;
    expect(spans(set)[0]).toEqual({ from: 0, to: 20000, edgeMs: 20 });
    const moved = applyCommand(set, { type: "span.move", owner: owner("a"), stepId: "sa", by: 500 }).document;
    expect(spans(moved)[0]).toEqual({ from: 500, to: 20500, edgeMs: 20 });
    const stopped = applyCommand(moved, {
      type: "span.move",
      owner: owner("a"),
      stepId: "sa",
      by: -9999
    }).document;
    expect(spans(stopped)[0]).toEqual({ from: 0, to: 20000, edgeMs: 20 });
    const trimmed = applyCommand(set, {
      type: "span.trim",
      owner: owner("a"),
      stepId: "sa",
      to: 900
    }).document;
    expect(spans(trimmed)[0]).toEqual({ from: 0, to: 900, edgeMs: 20 });
    expect(() =>
      applyCommand(set, { type: "span.trim", owner: owner("a"), stepId: "sa", from: 20000 })
    ).toThrow("A span must end after it begins.");
    expect(() => applyCommand(doc, { type: "span.move", owner: owner("a"), stepId: "sa", by: 1 })).toThrow(
      "Gain treats all of the sound: it has no span."
    );
    const whole = applyCommand(set, { type: "span.set", steps, range: null }).document;
    expect(spans(whole)).toEqual([null, null, null]);
  });
});
