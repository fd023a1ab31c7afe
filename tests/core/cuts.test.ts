// A treated clip that is cut sounds as it did: each piece's chain hears on what lies beyond the cut.
import { describe, expect, it } from "vitest";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import type { SoundStream } from "../../src/lib/core/audio/soundStream";
import { kernels } from "../../src/lib/core/kernels/instance";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { ClipStream } from "../../src/lib/core/render/clipStream";
import { analysePart, barePart, shapeOf } from "../../src/lib/core/render/clipAnalysis";
import { renderMatches } from "../../src/lib/core/session/clipState";
import { applyCommand, type Command } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { chainStretch, hearsBeyond } from "../../src/lib/core/session/heard";
import { resolveClip, type ResolvedClip } from "../../src/lib/core/session/lookup";
import type { Render } from "../../src/lib/core/session/schema";
import { newStep } from "../../src/lib/core/session/make";
import { dB } from "./analysis";
import { FRAMES, project, recordingOf } from "./owned";
import { ArraySource, EVERY_EFFECT, mixed, noise, RATE } from "./signals";

// Loud and quiet by turns, so that dynamics are at work wherever it is cut.
const sound = [1, 2].map((seed) =>
  noise(FRAMES, 0.5, seed).map((x, i) => x * (Math.floor(i / 9000) % 2 === 0 ? 1 : 0.06))
) as [Float32Array, Float32Array];
const source = () => new ArraySource({ a: sound });
const run = (doc: Document, ...commands: Command[]) =>
  commands.reduce((d, command) => applyCommand(d, command).document, doc);
const steps = (...effects: string[]) =>
  EVERY_EFFECT.filter(({ effect }) => effects.includes(effect)).map(({ effect, params }, i) =>
    newStep(`s${i}`, effect, params)
  );
const WINDOW = { offset: 4000, length: 150000 };
const of = (...effects: string[]) => project({ clip: steps(...effects) }, { start: 3000, ...WINDOW });
const cutAt = (doc: Document, at: number[], blend = 0) =>
  run(doc, { type: "clip.cut", cuts: [{ clipId: "k", at }], blend, seed: "cut" });
const heard = (doc: Document, from = 0) => mixed(doc, source(), from, 160000 - from);
const pieces = (doc: Document) =>
  [...doc.values("clips")].sort((a, b) => a.start - b.start).map((clip) => resolveClip(doc, clip));
const most = (a: readonly Float32Array[], b: readonly Float32Array[]) =>
  a.reduce((top, x, c) => x.reduce((t, y, i) => Math.max(t, Math.abs(y - (b[c]?.[i] ?? 0))), top), 0);

type Pair = [Float32Array, Float32Array];

/** The first frames of a stream, which is released. */
function read(stream: SoundStream, frames: number): Pair {
  const out: Pair = [new Float32Array(frames), new Float32Array(frames)];
  const block = new StereoBlock(BLOCK);
  for (let at = 0; at < frames; at += BLOCK) {
    const n = Math.min(BLOCK, frames - at);
    stream.read(block.left.ptr, block.right.ptr, n);
    out[0].set(block.left.f32.subarray(0, n), at);
    out[1].set(block.right.f32.subarray(0, n), at);
  }
  stream.release();
  block.release();
  return out;
}

const alone = (clip: ResolvedClip, from = source()) => read(new ClipStream(clip, from, RATE, 0), clip.length);

/** Loudest difference in dBFS between a document's mix and that of the same, cut. */
const changed = (doc: Document, at: number[], blend = 0) =>
  dB(most(heard(doc), heard(cutAt(doc, at, blend))));

describe("a treated clip that is cut", () => {
  const all = EVERY_EFFECT.map(({ effect }) => effect);

  it.each(all)("sounds as it did: %s, cut in three", (effect) => {
    // Equal to the sample but for filters and echoes that have no end: what their run-in leaves out lies under 140 dB down.
    expect(changed(of(effect), [40123, 99000])).toBeLessThan(-120);
  });

  it("sounds as it did through a chain of several, with and without a blend at the cuts", () => {
    const doc = of("parametric-eq", "compressor", "gate", "limiter");
    expect(changed(doc, [52001])).toBeLessThan(-120);
    expect(changed(doc, [30000, 52001, 90500], 480)).toBeLessThan(-120);
  });

  it("would not, if its chain began anew at the cut: then a compressor lets through what it held down", () => {
    const cut = cutAt(of("compressor"), [58000]);
    const anew = run(cut, { type: "clip.set", clipIds: pieces(cut).map(({ id }) => id), heard: null });
    expect(dB(most(heard(cut), heard(anew)))).toBeGreaterThan(-30);
    expect(pieces(anew).some(hearsBeyond)).toBe(false);
  });

  it("differs by nothing where the chain keeps no memory, and where it learns from the whole", () => {
    for (const effect of ["gain", "channels", "polarity", "normalize", "reverse", "fade"])
      expect(most(heard(of(effect)), heard(cutAt(of(effect), [40123, 99000]))), effect).toBe(0);
  });

  it("keeps that through a second cut, a trim and a slip; a slip beyond it begins anew", () => {
    const doc = cutAt(of("compressor"), [52000, 90000]);
    const [, middle] = pieces(doc);
    if (!middle) throw new Error("nothing was cut");
    expect(chainStretch(middle)).toEqual({ from: 4000, to: 154000 });
    const again = run(doc, {
      type: "clip.cut",
      cuts: [{ clipId: middle.id, at: [60000] }],
      blend: 0,
      seed: "2"
    });
    expect(pieces(again).map(chainStretch)).toEqual(Array(4).fill({ from: 4000, to: 154000 }));
    expect(dB(most(heard(doc), heard(again)))).toBeLessThan(-120);
    expect(chainStretch({ ...middle, offset: 160000, length: 100 })).toEqual({ from: 160000, to: 160100 });
    expect(chainStretch({ ...middle, offset: 1000, length: 20000 })).toEqual({ from: 1000, to: 154000 });
  });

  it("leaves a piece that is taken out and the rest as they sounded", () => {
    const doc = of("compressor", "limiter");
    const cut = run(doc, {
      type: "range.remove",
      trackIds: ["t"],
      clipIds: null,
      from: 60000,
      to: 80000,
      closeGap: false,
      blend: 0,
      seed: "r"
    });
    const [before, after] = [heard(doc), heard(cut)];
    const part = (x: readonly Float32Array[], from: number, to: number) => x.map((c) => c.subarray(from, to));
    expect(dB(most(part(before, 0, 60000), part(after, 0, 60000)))).toBeLessThan(-120);
    expect(dB(most(part(before, 80000, 160000), part(after, 80000, 160000)))).toBeLessThan(-120);
    expect(most(part(after, 60000, 80000), [new Float32Array(20000)])).toBe(0);
  });

  it("has untreated pieces that know of nothing beyond them", () => {
    expect(pieces(cutAt(project({}), [50000])).map(({ heard: beyond }) => beyond)).toEqual([
      undefined,
      undefined
    ]);
  });
});

describe("renders of pieces", () => {
  function rendered(clip: ResolvedClip, upTo?: number): { render: Render; made: Pair } {
    const made: [number[], number[]] = [[], []];
    const samples = (at: number, n: number) => new Float32Array(kernels.memory.buffer, at, n);
    const render = renderClip(
      { clip, upTo, sampleRate: RATE, recordingFrames: FRAMES, handleFrames: 5000, tailFrames: "auto" },
      source(),
      (l, r, n) => {
        made[0].push(...samples(l, n));
        made[1].push(...samples(r, n));
      }
    );
    const [left, right] = made;
    return {
      render: { ...render, recordingId: "r" },
      made: [Float32Array.from(left), Float32Array.from(right)]
    };
  }

  it.each([undefined, 1])("sound as the piece did, and match it: up to %s", (upTo) => {
    const doc = cutAt(of("compressor", "normalize"), [52000, 90000]);
    for (const clip of pieces(doc)) {
      const { render, made } = rendered(clip, upTo);
      const now = { ...clip, render };
      expect(renderMatches(now)).toBe(true);
      const where = new ArraySource({ a: sound, r: made });
      expect(dB(most(alone(clip), alone(now, where)))).toBeLessThan(upTo === undefined ? -299 : -120);
      // With its chain begun anew it is another sound where a step depends on its place.
      expect(renderMatches({ ...now, heard: null })).toBe(upTo === 1);
    }
  });

  it("that were made before the cut go on playing, where steps depend on their place too", () => {
    const doc = of("compressor", "normalize");
    const [clip] = pieces(doc);
    if (!clip) throw new Error("no clip");
    const { render } = rendered(clip);
    const whole = run(doc, {
      type: "clip.render",
      clipId: "k",
      recording: recordingOf("r", "render"),
      render
    });
    const parts = pieces(cutAt(whole, [52000]));
    expect(parts.map(renderMatches)).toEqual([true, true]);
  });
});

describe("the sheet of a piece", () => {
  it("measures what the piece lets be heard, as it sounds", () => {
    const doc = cutAt(of("compressor", "normalize"), [52000, 90000]);
    const [, clip] = pieces(doc);
    if (!clip) throw new Error("nothing was cut");
    const analyser = analysePart(barePart(clip), shapeOf(clip), source(), RATE, 8);
    while (!analyser.advance(1 << 16));
    const { after, before } = analyser.result();
    analyser.release();
    const out = alone(clip);
    const raw = sound.map((x) => x.subarray(clip.offset, clip.offset + clip.length));
    const top = (x: readonly Float32Array[]) =>
      Math.max(...x.map((c) => c.reduce((t, y) => Math.max(t, Math.abs(y)), 0)));
    expect(Math.max(...before)).toBe(top(raw));
    expect(Math.max(...after)).toBeCloseTo(top(out), 4);
  });
});
