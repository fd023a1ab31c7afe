// A clip that rings out: the tail of its chain, whole, after its end and into what comes next.
import { describe, expect, it } from "vitest";
import { closeBlock } from "../../src/lib/core/audio/fades";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { kernels } from "../../src/lib/core/kernels/instance";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { Plan } from "../../src/lib/core/render/graph";
import { measuredRing } from "../../src/lib/core/render/ringMeasure";
import { ringFrames } from "../../src/lib/core/render/ringOut";
import { partOf } from "../../src/lib/core/render/soundPart";
import { documentOfItem, itemsOf } from "../../src/lib/core/delivery/items";
import { clipState } from "../../src/lib/core/session/clipState";
import { applyCommand, type SingleCommand } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { findClip } from "../../src/lib/core/session/lookup";
import { newClip, newStep } from "../../src/lib/core/session/make";
import type { Step } from "../../src/lib/core/session/schema";
import { FRAMES, project, recordingOf } from "./owned";
import { ArraySource, mixed, noise, RATE, same, throughChain } from "./signals";

const sound = noise(FRAMES, 0.3, 1);
const source = new ArraySource({
  a: [sound, noise(FRAMES, 0.3, 2)],
  b: [noise(FRAMES, 0.1, 3), noise(FRAMES, 0.1, 4)]
});
const LENGTH = 30000;
const REVERB = [newStep("r", "reverb", { decayS: 1.2, mixPercent: 40 })];

function ringing(steps: readonly Step[], frames: number | null = null, fadeOut = 0): Document {
  const doc = project({ clip: steps }, { start: 1000, length: LENGTH });
  const fade = { length: fadeOut, shape: { curve: "straight" as const } };
  return [
    { type: "clip.set", clipIds: ["k"], ringOut: { frames } },
    { type: "clip.fade", clipIds: ["k"], edge: "out", fade }
  ].reduce((d, c) => applyCommand(d, c as SingleCommand).document, doc);
}

function clipOf(doc: Document) {
  const clip = findClip(doc, "k")?.clip;
  if (!clip) throw new Error("no clip");
  return clip;
}

/** The clip's sound alone through its chain, with silence after it. */
function alone(steps: readonly Step[], frames: number, fadeOut = 0): Float32Array {
  const input = new Float32Array(frames);
  input.set(sound.subarray(0, LENGTH));
  if (fadeOut > 0) {
    const block = new StereoBlock(LENGTH);
    block.left.f32.set(input.subarray(0, LENGTH));
    const fade = { length: fadeOut, shape: { curve: "straight" as const } };
    closeBlock(LENGTH, fade, 0, block.left.ptr, block.right.ptr, LENGTH);
    input.set(block.left.f32.subarray(0, LENGTH));
    block.release();
  }
  const right = new Float32Array(frames);
  right.set(noise(FRAMES, 0.3, 2).subarray(0, LENGTH));
  if (fadeOut > 0)
    for (let i = 0; i < fadeOut; i++) right[LENGTH - fadeOut + i] *= (fadeOut - i - 0.5) / fadeOut;
  return throughChain([...steps], input, right)[0];
}

const largest = (x: Float32Array) => x.reduce((most, v) => Math.max(most, Math.abs(v)), 0);

describe("ring-out", () => {
  it("is the chain's own tail, and nothing of the clip itself changes", () => {
    const doc = ringing(REVERB);
    const clip = clipOf(doc);
    const rings = ringFrames(clip, RATE);
    expect(rings).toBeGreaterThan(1.2 * RATE);
    const heard = mixed(doc, source, 1000, LENGTH + rings)[0];
    const own = alone(REVERB, LENGTH + rings);
    // All but the last 20 ms, which are faded.
    expect(same(heard.subarray(0, LENGTH + rings - 960), own.subarray(0, LENGTH + rings - 960))).toBe(true);
    expect(
      same(
        heard.subarray(0, LENGTH),
        mixed(project({ clip: REVERB }, { length: LENGTH }), source, 0, LENGTH)[0]
      )
    ).toBe(true);
    expect(largest(heard.subarray(LENGTH, LENGTH + 4800))).toBeGreaterThan(0.01);
    // 90 dB under what it rings from.
    expect(largest(heard.subarray(LENGTH + rings - 960))).toBeLessThan(0.3 * 10 ** (-80 / 20));
    expect(new Plan(doc).end).toBe(1000 + LENGTH + rings);
  });

  it("has its closing fade before the chain", () => {
    const doc = ringing(REVERB, null, 8000);
    const heard = mixed(doc, source, 1000, LENGTH + 20000)[0];
    const own = alone(REVERB, LENGTH + 20000, 8000);
    expect(largest(heard.map((x, i) => x - own[i]))).toBeLessThan(1e-6);
    expect(largest(heard.subarray(LENGTH - 100, LENGTH + 5000))).toBeGreaterThan(0.003);
  });

  it("of a typed length ends there without a click, and the next clip sounds as without it", () => {
    const typed = ringing(REVERB, 6000);
    const heard = mixed(typed, source, 1000, LENGTH + 8000)[0];
    expect(largest(heard.subarray(LENGTH + 6000))).toBe(0);
    const steps = heard.subarray(LENGTH + 5000, LENGTH + 7000).map((x, i, all) => (i ? x - all[i - 1] : 0));
    expect(Math.abs(heard[LENGTH + 5999])).toBeLessThan(1e-6);
    expect(largest(steps.subarray(-1500))).toBeLessThan(largest(steps.subarray(0, 500)));
    const next = newClip("n", "t", { id: "b", name: "b", frames: FRAMES }, 1000 + LENGTH, { length: 20000 });
    const add: SingleCommand = { type: "clip.add", clip: next, chain: null };
    const withRecording = applyCommand(typed, {
      type: "recording.add",
      recording: recordingOf("b")
    }).document;
    const both = mixed(applyCommand(withRecording, add).document, source, 1000, LENGTH + 8000)[0];
    const second = noise(FRAMES, 0.1, 3);
    const summed = heard.map((x, i) => (i < LENGTH ? x : Math.fround(x + second[i - LENGTH])));
    expect(largest(both.map((x, i) => x - summed[i]))).toBeLessThan(1e-7);
  });

  it("sounds the same in blocks of any size, and from a start in the middle of the tail", () => {
    const doc = ringing(REVERB);
    const whole = mixed(doc, source, 0, LENGTH + 40000)[0];
    expect(same(whole, mixed(doc, source, 0, LENGTH + 40000, 37)[0])).toBe(true);
    const from = 1000 + LENGTH + 12000;
    const late = mixed(doc, source, from, 10000)[0];
    expect(largest(late.map((x, i) => x - whole[from + i]))).toBeLessThan(3e-6);
  });

  it("is rendered with the clip: then live from the next step on, as all live", () => {
    const two = [...REVERB, newStep("g", "delay", { timeMs: 90, feedbackPercent: 30, mixPercent: 30 })];
    for (const upTo of [1, 2]) {
      const doc = ringing(two, null, 3000);
      const clip = clipOf(doc);
      const live = mixed(doc, source, 1000, LENGTH + ringFrames(clip, RATE))[0];
      const parts: [number[], number[]] = [[], []];
      const order = {
        clip,
        upTo,
        sampleRate: RATE,
        recordingFrames: FRAMES,
        handleFrames: 4800,
        tailFrames: 0
      };
      const render = renderClip(order, source, (l, r, n) => {
        parts[0].push(...new Float32Array(kernels.memory.buffer, l, n));
        parts[1].push(...new Float32Array(kernels.memory.buffer, r, n));
      });
      const frames = parts[0].length;
      const recording = { ...recordingOf("made", "render"), frames };
      const command: SingleCommand = {
        type: "clip.render",
        clipId: "k",
        recording,
        render: { ...render, recordingId: "made" }
      };
      const rendered = applyCommand(doc, command).document;
      expect(clipState(clipOf(rendered))).toBe(upTo === 2 ? "rendered" : "live");
      const sounds = new ArraySource({ made: [Float32Array.from(parts[0]), Float32Array.from(parts[1])] });
      const heard = mixed(rendered, sounds, 1000, live.length)[0];
      expect(ringFrames(clipOf(rendered), RATE)).toBe(ringFrames(clip, RATE));
      expect(largest(heard.map((x, i) => x - live[i]))).toBe(0);
      const fade = { length: 200, shape: { curve: "straight" as const } };
      const changed = applyCommand(rendered, {
        type: "clip.fade",
        clipIds: ["k"],
        edge: "out",
        fade
      }).document;
      expect(clipState(clipOf(changed))).toBe("stale");
      const off = applyCommand(rendered, { type: "clip.set", clipIds: ["k"], ringOut: null }).document;
      expect(clipState(clipOf(off))).toBe("stale");
    }
  });

  it("goes with the end of a clip that is split", () => {
    const doc = ringing(REVERB);
    const split = applyCommand(doc, {
      type: "clip.split",
      clipId: "k",
      at: 11000,
      newId: "k2",
      chainId: "c2",
      stepIds: ["r2"]
    }).document;
    expect(split.get("clips", "k")?.ringOut ?? null).toBeNull();
    expect(split.get("clips", "k2")?.ringOut).toEqual({ frames: null });
    const cut = applyCommand(doc, {
      type: "clip.cut",
      cuts: [{ clipId: "k", at: [11000] }],
      blend: 0,
      seed: "s"
    }).document;
    expect([...cut.values("clips")].filter((clip) => clip.ringOut).map((clip) => clip.start)).toEqual([
      11000
    ]);
  });

  it("is delivered with its clip", () => {
    const doc = ringing(REVERB);
    const [item] = itemsOf(doc, { what: "clips", ids: ["k"] });
    expect(item).toMatchObject({ from: 1000, to: 1000 + LENGTH + ringFrames(clipOf(doc), RATE) });
    const alone = item && documentOfItem(doc, item);
    const heard = alone ? mixed(alone, source, 1000, LENGTH + 20000)[0] : new Float32Array();
    expect(same(heard, mixed(doc, source, 1000, LENGTH + 20000)[0])).toBe(true);
  });

  it("lasts 30 seconds at most", () => {
    const endless = [newStep("d", "delay", { timeMs: 1000, feedbackPercent: 95, mixPercent: 50 })];
    expect(ringFrames(clipOf(ringing(endless)), RATE)).toBe(30 * RATE);
    expect(ringFrames(clipOf(ringing([])), RATE)).toBe(0);
  });

  it("is measured by its sound: until it stays 60 dB under the clip's peak, to a block", () => {
    const chains = [
      REVERB,
      [newStep("d", "delay", { timeMs: 300, feedbackPercent: 50, mixPercent: 50 })],
      [newStep("g", "gain", { gainDb: -6 })]
    ];
    const found = chains.map((steps) => {
      const frames = measuredRing(partOf({ ...clipOf(ringing(steps)), render: null }), source, RATE);
      const heard = alone(steps, LENGTH + 6 * RATE);
      const floor = largest(heard.subarray(0, LENGTH)) / 1000;
      const last = heard.findLastIndex((v) => Math.abs(v) > floor) + 1 - LENGTH;
      // The right side may ring a little longer.
      expect(Math.abs(frames - Math.max(0, last))).toBeLessThan(0.05 * RATE);
      return frames;
    });
    // A gain rings not at all; echoes that halve are 60 dB down after ten.
    expect(found[2]).toBe(0);
    expect(found[1] / (0.3 * RATE)).toBeGreaterThan(8.5);
    expect(found[1] / (0.3 * RATE)).toBeLessThan(11.5);
  });
});
