// The plan: everything in time, added up, ringing on, and kept up by changes.
import type { Fade } from "../../src/lib/core/session/schema";
import { describe, expect, it } from "vitest";
import { chainTiming } from "../../src/lib/core/effects/chain";
import { ClipStream } from "../../src/lib/core/render/clipStream";
import { MixStream } from "../../src/lib/core/render/mix";
import { TrackPeaks } from "../../src/lib/core/render/trackPeaks";
import { Plan, trackGains } from "../../src/lib/core/render/graph";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { applyCommand, type SingleCommand } from "../../src/lib/core/session/commands";
import { changesBetween } from "../../src/lib/core/session/document";
import { findClip } from "../../src/lib/core/session/lookup";
import { documentOf, newClip, newProject, newStep, newTrack } from "../../src/lib/core/session/make";
import { ArraySource, mixed, noise, RATE } from "./signals";
import { FRAMES, recordingOf, type Chains, project, OWNERS } from "./owned";

describe("latency", () => {
  it("is compensated on every path: an impulse arrives at its sample through chains on clip, recording, track and mix", () => {
    const click = new Float32Array(FRAMES);
    click[30000] = 0.25;
    const where = new ArraySource({ a: [click, click] });
    const late = (id: string, effect: string, params = {}) => newStep(id, effect, params);
    const lagging: Chains = {
      clip: [late("c", "limiter", { ceilingDb: 0 })],
      recording: [late("r", "compressor", { thresholdDb: 0 })],
      track: [late("t", "noise-reduction", { source: "carried" }), late("u", "limiter", { ceilingDb: 0 })],
      mix: [late("m", "compressor", { thresholdDb: 0 }), late("n", "limiter", { ceilingDb: 0 })]
    };
    for (const [name] of OWNERS) {
      const steps = lagging[name] ?? [];
      expect(chainTiming(steps, RATE).latency).toBeGreaterThan(0);
    }
    const some = [{}, ...OWNERS.map(([name]) => ({ [name]: lagging[name] })), lagging];
    for (const chains of some) {
      const [out] = mixed(project(chains, { start: 7000, offset: 1000 }), where, 0, RATE);
      const top = out.reduce((best, x, i) => (Math.abs(x) > Math.abs(out[best] ?? 0) ? i : best), 0);
      expect(top, Object.keys(chains).join()).toBe(36000);
      expect(out[36000]).toBeCloseTo(0.25, 2);
    }
  });

  it("starts anywhere as from the beginning: below -90 dBFS", () => {
    const where = new ArraySource({ a: [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)] });
    const loud = (id: string) => newStep(id, "limiter", { gainDb: 6, ceilingDb: -3 });
    const chains: Chains = {
      clip: [newStep("c", "compressor", { thresholdDb: -30, ratio: 3 })],
      recording: [newStep("r", "parametric-eq", { on1: true, type1: "highPass", freq1: 90 })],
      track: [loud("t"), newStep("d", "delay", { timeMs: 120, feedbackPercent: 20 })],
      mix: [loud("m")]
    };
    const doc = project(chains, { start: 12000, length: 2 * RATE });
    const [whole] = mixed(doc, where, 0, 3 * RATE);
    for (const at of [1, 11000, 12001, 60000, 108000, 112000]) {
      const [part] = mixed(doc, where, at, 20000);
      const apart = part.reduce((most, x, i) => Math.max(most, Math.abs(x - (whole[at + i] ?? NaN))), 0);
      expect(20 * Math.log10(apart + 1e-12), `from ${at}`).toBeLessThan(-90);
    }
  });

  it("gives the same samples whatever blocks it is read in, buses asleep and awake", () => {
    const where = new ArraySource({ a: [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)] });
    const doc = applyCommand(
      project(
        {
          track: [newStep("g", "expander", {}), newStep("l", "limiter", { releaseMs: 2 })],
          mix: [newStep("m", "limiter", { gainDb: 3 })]
        },
        { start: 3000, length: 9000 }
      ),
      {
        type: "clip.add",
        clip: newClip("k2", "t", { id: "a", name: "b", frames: 5000 }, 60000, { length: 5000 }),
        chain: null
      }
    ).document;
    const whole = mixed(doc, where, 0, 90000);
    for (const size of [37, 511, 512]) expect(mixed(doc, where, 0, 90000, size)).toEqual(whole);
  });
});

describe("sums", () => {
  it("of tracks without chains are those of the clips' own sounds, in order, bit for bit", () => {
    const sounds = new ArraySource({ a: [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)] });
    const fade: Fade = { length: 3000, shape: { curve: "equalPower" } };
    const clip = (id: string, track: string, start: number) =>
      newClip(id, track, { id: "a", name: id, frames: FRAMES }, start, {
        length: 20000,
        offset: start % 7919,
        fadeIn: fade,
        fadeOut: fade
      });
    const tracks = [
      newTrack("t2", "Two", 2, { gainDb: -3, pan: -0.4 }),
      newTrack("t1", "One", 1, { gainDb: 2 })
    ];
    const doc = documentOf(newProject("Test", RATE), {
      tracks,
      clips: [clip("c", "t1", 17000), clip("a", "t1", 0), clip("b", "t2", 9000), clip("d", "t2", 27000)],
      recordings: [recordingOf("a")]
    });
    const wanted = [new Float32Array(50000), new Float32Array(50000)];
    for (const [id, track] of [
      ["a", "t1"],
      ["c", "t1"],
      ["b", "t2"],
      ["d", "t2"]
    ] as const) {
      const found = findClip(doc, id);
      if (!found) throw new Error(id);
      const gains = trackGains(found.track);
      expect(found.track.id).toBe(track);
      const block = new StereoBlock(20000);
      const stream = new ClipStream(found.clip, sounds, RATE);
      stream.read(block.left.ptr, block.right.ptr, 20000);
      [block.left.f32, block.right.f32].forEach((x, side) =>
        x.forEach((v, i) => {
          const out = wanted[side];
          const at = found.clip.start + i;
          if (out) out[at] = Math.fround((out[at] ?? 0) + Math.fround(v * Math.fround(gains[side] ?? 0)));
        })
      );
      stream.release();
      block.release();
    }
    expect(mixed(doc, sounds, 0, 50000)).toEqual(wanted);
  });
});

describe("tails", () => {
  const click = new Float32Array(FRAMES);
  click[9000] = 0.5;
  const where = new ArraySource({ a: [click, click] });
  const echo = (id: string, timeMs: number) =>
    newStep(id, "delay", { timeMs, feedbackPercent: 0, mixPercent: 50, dampingHz: 20000 });

  it("of tracks and the mix ring on after the last clip, and say where the programme ends", () => {
    const doc = project({ track: [echo("t", 500)], mix: [echo("m", 1000)] }, { length: 10000 });
    expect(new Plan(doc).end).toBe(10000 + 24000 + 48000);
    const [out] = mixed(doc, where, 0, 90000);
    const heard = [...out].flatMap((x, i) => (x === 0 ? [] : [i]));
    expect(heard).toEqual([9000, 9000 + 24000, 9000 + 48000, 9000 + 72000]);
  });

  it("of a clip end with the clip: nothing rings that was not asked to", () => {
    expect(new Plan(project({ clip: [echo("c", 500)] }, { length: 10000 })).end).toBe(10000);
  });

  it("of an empty or muted programme are none", () => {
    const doc = project({ mix: [echo("m", 1000)] }, { length: 10000 });
    const silent = applyCommand(doc, { type: "track.set", trackId: "t", muted: true }).document;
    expect(new Plan(silent).end).toBe(0);
  });
});

describe("the plan is kept up", () => {
  it("by changes as if it had been made anew, through mute, solo, moves, removals and undo", () => {
    const base = project({ track: [newStep("g", "delay", { timeMs: 300 })] }, { length: 10000 });
    const plan = new Plan(base);
    let doc = base;
    const commands: SingleCommand[] = [
      { type: "clip.move", clipId: "k", trackId: "u", start: 70000 },
      { type: "clip.set", clipIds: ["k"], muted: true },
      { type: "clip.set", clipIds: ["k"], muted: false },
      { type: "track.set", trackId: "t", solo: true },
      { type: "track.set", trackId: "t", solo: false },
      { type: "clip.add", clip: newClip("n", "t", { id: "a", name: "n", frames: 500 }, 200000), chain: null },
      { type: "step.set", owner: { table: "tracks", id: "t" }, stepId: "g", on: false },
      { type: "clip.remove", clipIds: ["n"] },
      { type: "track.set", trackId: "u", gainDb: -6, pan: 1 }
    ];
    const facts = (p: Plan) => ({
      end: p.end,
      tracks: p.tracks.map(({ id, steps, left, right }) => ({ id, steps, left, right })),
      voices: ["t", "u"].map((t) => p.voices(t, 0, 1e9).map((c) => c.id))
    });
    for (const command of commands) {
      const next = applyCommand(doc, command).document;
      plan.update(next, changesBetween(doc, next));
      doc = next;
      expect(facts(plan)).toEqual(facts(new Plan(doc)));
    }
    plan.update(base, changesBetween(doc, base));
    expect(facts(plan)).toEqual(facts(new Plan(base)));
  });
});

describe("levels of tracks", () => {
  it("are the peaks of what each gives to the mix, and measuring them changes no sample", () => {
    const sound = noise(FRAMES, 0.5, 7);
    const source = new ArraySource({ a: [sound, sound.map((x) => x * 0.5)] });
    const clip = (id: string, track: string) =>
      newClip(id, track, { id: "a", name: id, frames: FRAMES }, 0, { length: 20000 });
    const doc = documentOf(newProject("Levels", RATE), {
      tracks: [newTrack("t", "T", 1, { gainDb: -6 }), newTrack("u", "U", 2), newTrack("v", "V", 3)],
      clips: [clip("x", "t"), clip("y", "u")],
      recordings: [recordingOf("a")]
    });
    const peaks = new TrackPeaks();
    const read = (into?: TrackPeaks) => {
      const mix = new MixStream(new Plan(doc), source, 0, into);
      const block = new StereoBlock();
      const out: number[] = [];
      for (let i = 0; i < 10; i++) {
        mix.read(block.left.ptr, block.right.ptr, 512);
        out.push(...block.left.f32);
      }
      mix.release();
      block.release();
      return out;
    };
    expect(read(peaks)).toEqual(read());
    const loudest = sound.subarray(0, 5120).reduce((most, x) => Math.max(most, Math.abs(x)), 0);
    const { t, u, v } = peaks.take();
    expect(u).toBeCloseTo(20 * Math.log10(loudest), 3);
    expect(t).toBeCloseTo(20 * Math.log10(loudest) - 6, 3);
    expect(v).toBe(-Infinity);
    expect(peaks.take()).toEqual({});
    peaks.release();
  });
});

describe("a recording that cannot be had", () => {
  it("leaves its clips silent, and those whose steps ask for it; the rest sounds on, and all of it again later", () => {
    const doc = documentOf(newProject("Absent", RATE), {
      tracks: [newTrack("t", "T", 0)],
      recordings: [recordingOf("a"), recordingOf("b")],
      clips: [newClip("one", "t", recordingOf("a"), 0), newClip("two", "t", recordingOf("b"), 0)]
    });
    const plan = new Plan(doc);
    const ids = () => plan.voices("t", 0, FRAMES).map((clip) => clip.id);
    expect(ids()).toEqual(["one", "two"]);
    expect(plan.leaveOut("a")).toBe(true);
    expect(plan.leaveOut("a")).toBe(false);
    expect(ids()).toEqual(["two"]);
    expect(plan.needed(0, 1000).map(({ recordingId }) => recordingId)).toEqual(["b"]);
    expect(plan.takeChanged().all).toBe(true);
    plan.takeBack();
    expect(ids()).toEqual(["one", "two"]);
  });
});
