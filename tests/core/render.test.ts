import { describe, expect, it } from "vitest";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { analysePart, barePart } from "../../src/lib/core/render/clipAnalysis";
import { ClipStream } from "../../src/lib/core/render/clipStream";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { PLAIN_CURVES, fadeGain, fadeGainAt } from "../../src/lib/core/audio/fades";
import { clipState } from "../../src/lib/core/session/clipState";
import type { Document } from "../../src/lib/core/session/document";
import type { ResolvedClip } from "../../src/lib/core/session/lookup";
import { newStep, newTrack } from "../../src/lib/core/session/make";
import type { Render, Track } from "../../src/lib/core/session/schema";
import { ArraySource, clipOf, documentWith, fade, mixed, noise, RATE, sine, step, TestMix } from "./signals";

const speechLike = noise(RATE * 4, 0.3, 5).map((x, i) => x * Math.abs(Math.sin(i / 7000)) ** 2);
const source = new ArraySource({
  a: [speechLike, speechLike.map((x) => x * 0.7)],
  tone: [sine(200, -12, RATE * 4), sine(200, -12, RATE * 4)]
});
const steps = [
  step("gain", { gainDb: 5.5 }),
  step("parametric-eq", { on1: true, type1: "highPass", freq1: 90, on3: true, type3: "highShelf", gain3: 4 }),
  step("compressor", { thresholdDb: -30, ratio: 4, lookAheadMs: 2, sideHighPassHz: 120 }),
  step("limiter", { gainDb: 9, ceilingDb: -2, releaseMs: 60 })
].map((s, i) => ({ ...s, id: `s${i}`, params: { ...s.params } }));

function mixDown(doc: Document, from: number, frames: number, size = BLOCK): Float32Array {
  return mixed(doc, source, from, frames, size)[0];
}

function rendered(
  clip: ResolvedClip,
  handleFrames: number,
  tailFrames: number | "auto" = 0
): { render: Render; sound: [Float32Array, Float32Array] } {
  const left: number[] = [];
  const right: number[] = [];
  const block = (address: number, n: number) => new Float32Array(memory(), address, n);
  const render = renderClip(
    { clip, sampleRate: RATE, recordingFrames: RATE * 4, handleFrames, tailFrames },
    source,
    (l, r, n) => {
      left.push(...block(l, n));
      right.push(...block(r, n));
    }
  );
  return { render, sound: [Float32Array.from(left), Float32Array.from(right)] };
}

import { kernels } from "../../src/lib/core/kernels/instance";
const memory = () => kernels.memory.buffer;

describe("fades", () => {
  // Formulas: straight t, equal power sin(πt/2), S-shaped (1 - cos πt)/2, smooth 3t² - 2t³.
  const formulas = {
    straight: (t: number) => t,
    equalPower: (t: number) => Math.sin((Math.PI * t) / 2),
    sShaped: (t: number) => (1 - Math.cos(Math.PI * t)) / 2,
    smooth: (t: number) => 3 * t * t - 2 * t ** 3,
    logarithmic: (t: number) => (100 ** t - 1) / 99,
    exponential: (t: number) => 1 - (100 ** (1 - t) - 1) / 99
  };

  it.each(PLAIN_CURVES)("%s follows its formula, from silence to full", (curve) => {
    for (let t = 0; t <= 1.0001; t += 0.05)
      expect(fadeGain(Math.min(1, t), { curve })).toBeCloseTo(formulas[curve](Math.min(1, t)), 9);
  });

  it("equal-power fades in and out keep the power where they overlap", () => {
    for (const t of [0.1, 0.3, 0.5, 0.9])
      expect(
        fadeGain(t, { curve: "equalPower" }) ** 2 + fadeGain(1 - t, { curve: "equalPower" }) ** 2
      ).toBeCloseTo(1, 9);
  });

  it("shape the sound of a clip as they are drawn, mirrored at both ends", () => {
    const ones = new Float32Array(RATE).fill(1);
    const flat = new ArraySource({ ones: [ones, ones] });
    const clip = clipOf("ones", 10000, {
      fadeIn: fade(3000, "sShaped"),
      fadeOut: fade(4001, "equalPower")
    });
    const [out] = mixed(documentWith(clip), flat, 0, 10000, 500);
    out.forEach((x, i) => expect(x).toBeCloseTo(fadeGainAt(clip, i), 6));
    expect(fadeGainAt({ ...clip, fadeOut: clip.fadeIn }, 10)).toBe(
      fadeGainAt({ ...clip, fadeOut: clip.fadeIn }, 9989)
    );
  });
});

describe("mix", () => {
  const clip = clipOf("a", RATE * 2, {
    start: 4800,
    offset: 9000,
    steps,
    gainDb: -2,
    fadeIn: fade(2000, "equalPower")
  });

  it("is the same whatever blocks it is read in", () => {
    const whole = mixDown(documentWith(clip), 0, RATE * 3);
    expect(whole.some((x) => x !== 0)).toBe(true);
    for (const size of [1, 127, 500])
      expect(mixDown(documentWith(clip), 0, RATE, size)).toEqual(whole.subarray(0, RATE));
  });

  it("started in the middle sounds as from the beginning: difference below -90 dBFS", () => {
    const whole = mixDown(documentWith(clip), 0, RATE * 2);
    const middle = mixDown(documentWith(clip), RATE, RATE);
    const worst = middle.reduce((a, x, i) => Math.max(a, Math.abs(x - whole[RATE + i])), 0);
    expect(20 * Math.log10(worst + 1e-12)).toBeLessThan(-90);
  });

  it("keeps clips in time whatever the latency of their chains", () => {
    const click = new Float32Array(RATE);
    click[5000] = 0.25;
    const clicks = new ArraySource({ click: [click, click] });
    const late = clipOf("click", RATE, {
      steps: [
        { id: "l", effect: "limiter", on: true, params: {} },
        { id: "c", effect: "compressor", on: true, params: { thresholdDb: 0 } }
      ]
    });
    const [out] = mixed(documentWith(late), clicks, 0, 8192);
    expect(out.indexOf(Math.max(...out))).toBe(5000);
  });

  it.each([
    [
      "a parameter",
      (c: ResolvedClip): ResolvedClip => ({ ...c, steps: [{ ...c.steps[0], params: { gainDb: -12 } }] })
    ],
    [
      "a step switched off",
      (c: ResolvedClip): ResolvedClip => ({ ...c, steps: [{ ...c.steps[0], on: false }] })
    ],
    ["a step removed", (c: ResolvedClip): ResolvedClip => ({ ...c, steps: [] })],
    [
      "an EQ added",
      (c: ResolvedClip): ResolvedClip => ({
        ...c,
        steps: [...c.steps, newStep("e", "parametric-eq", { on1: true, type1: "highPass", freq1: 400 })]
      })
    ],
    ["mute", (c: ResolvedClip): ResolvedClip => ({ ...c, muted: true })]
  ])("changes %s while it plays without a click, and ends at the new sound", (_, change) => {
    const before = clipOf("tone", RATE * 3, {
      steps: [{ id: "g", effect: "gain", on: true, params: { gainDb: 6 } }]
    });
    const after = change(before);
    const mix = new TestMix(documentWith(before), source);
    const first = mix.read(BLOCK * 50)[0];
    mix.update(documentWith(after));
    const out = [...first, ...mix.read(RATE * 2 - BLOCK * 50)[0]];
    // A 200 Hz sine at -6 dBFS moves at most 2π·200/48000·0.5 from sample to sample; the 20 ms change adds little.
    const steepest = out.reduce((a, x, i) => (i === 0 ? a : Math.max(a, Math.abs(x - out[i - 1]))), 0);
    expect(steepest).toBeLessThan(((2 * Math.PI * 200) / RATE) * 0.5 * 1.15);
    const changed = BLOCK * 50 + Math.round(0.05 * RATE);
    const fresh = mixDown(documentWith(after), 0, out.length);
    for (let i = changed; i < changed + 5000; i++) expect(out[i]).toBeCloseTo(fresh[i], 4);
    mix.release();
  });

  it("obeys mute, solo, gain and pan of tracks", () => {
    const doc = documentWith(clipOf("tone", RATE));
    const level = (d: Document) => Math.max(...mixDown(d, 0, 4800));
    const full = level(doc);
    const track = (after: Track): Document => {
      const before = doc.get("tracks", after.id) ?? null;
      return doc.with([{ table: "tracks", id: after.id, before, after }]);
    };
    const changed = (change: Partial<Track>) => track(newTrack("track-1", "Track 1", 1, change));
    expect(level(changed({ muted: true }))).toBe(0);
    expect(level(track(newTrack("t2", "Another", 2, { solo: true })))).toBe(0);
    expect(level(changed({ gainDb: -6 })) / full).toBeCloseTo(10 ** (-6 / 20), 4);
    expect(level(changed({ pan: 1 }))).toBeCloseTo(0, 6);
  });
});

describe("render", () => {
  const clip = clipOf("a", RATE, {
    offset: RATE,
    steps,
    gainDb: -3,
    fadeOut: fade(4000, "sShaped")
  });
  const handle = Math.round(RATE / 2);
  const { render, sound } = rendered(clip, handle, "auto");
  const all = new ArraySource({ a: [speechLike, speechLike.map((x) => x * 0.7)], r: sound });
  const withRender = (c: ResolvedClip): ResolvedClip => ({ ...c, render: { ...render, recordingId: "r" } });
  const play = (c: ResolvedClip) => {
    const [left, right] = mixed(documentWith(c), all, 0, RATE + 4096);
    return Float32Array.from([...left, ...right]);
  };

  it("sounds exactly as the live chain did, and restoring it too: difference 0", () => {
    const live = play(clip);
    expect(live.some((x) => x !== 0)).toBe(true);
    expect(play(withRender(clip))).toEqual(live);
    expect(play({ ...withRender(clip), render: null })).toEqual(live);
  });

  it("keeps handles on both sides, joined to the clip without a step", () => {
    expect(render.origin).toBe(RATE - handle);
    expect(render.frames).toBeGreaterThanOrEqual(RATE + 2 * handle);
    expect(sound[0].length).toBe(render.frames);
    const jump = (at: number) => Math.abs(sound[0][at] - sound[0][at - 1]);
    const usual = Math.max(...Array.from({ length: 2000 }, (_, i) => jump(handle + 3000 + i)));
    expect(jump(handle)).toBeLessThan(usual * 1.2);
    expect(jump(handle + RATE)).toBeLessThan(usual * 1.2);
  });

  it("can be trimmed outwards into the handles, but not beyond: then it no longer matches", () => {
    expect(clipState(withRender(clip))).toBe("rendered");
    expect(clipState(withRender({ ...clip, offset: RATE - handle, length: RATE + handle }))).toBe("rendered");
    expect(clipState(withRender({ ...clip, offset: RATE - handle - 1, length: RATE }))).toBe("stale");
  });

  it.each([
    ["reverse", "reverse", {}, true],
    ["normalize", "normalize", {}, true],
    ["fade", "fade", { inS: 0.1 }, true],
    ["silence", "silence", { fromS: 0.1, toS: 0.2 }, true],
    ["chorus, whose sweep has a place", "chorus", {}, true],
    ["noise reduction that learns from the clip", "noise-reduction", {}, true],
    ["an equalizer", "parametric-eq", { on1: true }, false],
    ["a compressor", "compressor", {}, false]
  ] as const)(
    "with %s: after a trim it counts as rendered only if the sound inside is still that of the chain",
    (_, effect, params, placed) => {
      const treated = clipOf("a", RATE, { offset: RATE, steps: [{ id: "x", effect, params }] });
      const made = rendered(treated, handle, 0);
      const sounds = new ArraySource({ a: [speechLike, speechLike.map((x) => x * 0.7)], r: made.sound });
      const trimmed = { ...treated, offset: RATE + 9600, length: RATE - 9600 };
      const withIt = (c: ResolvedClip) => ({ ...c, render: { ...made.render, recordingId: "r" } });
      expect(clipState(withIt(treated))).toBe("rendered");
      expect(clipState(withIt(trimmed))).toBe(placed ? "stale" : "rendered");
      const play = (c: ResolvedClip) => {
        const stream = new ClipStream(c, sounds, RATE);
        const block = new StereoBlock(RATE >> 1);
        stream.read(block.left.ptr, block.right.ptr, RATE >> 1);
        const out = block.left.f32.slice();
        stream.release();
        block.release();
        return out;
      };
      // Restoring a render that says that it matches leaves the sound as it was, but for the time in which the chain settles.
      const [live, played] = [play(trimmed), play(withIt(trimmed))];
      const apart = Math.max(
        ...live.slice(RATE / 4).map((x, i) => Math.abs(x - (played[RATE / 4 + i] ?? 0)))
      );
      expect(apart).toBeLessThan(0.02);
    }
  );

  it("no longer matches when a rendered step changes, and matches again when it is changed back", () => {
    const changed = {
      ...clip,
      steps: clip.steps.map((s, i) => (i === 0 ? { ...s, params: { gainDb: 1 } } : s))
    };
    expect(clipState(withRender(changed))).toBe("stale");
    expect(clipState(withRender(clip))).toBe("rendered");
    expect(clipState({ ...withRender(clip), steps: [] })).toBe("stale");
  });

  it("plays steps that were added later live on top", () => {
    const more = {
      ...clip,
      steps: [...clip.steps, newStep("more", "gain", { gainDb: -6 })]
    };
    expect(clipState(withRender(more))).toBe("live");
    expect(play(withRender(more))).toEqual(play(more));
  });

  it("waits in a measured tail for the next echo, and ends soon after the last", () => {
    const click = new Float32Array(RATE * 4);
    click[100] = 0.5;
    const clicks = new ArraySource({ c: [click, click] });
    const echoes = { timeMs: 700, feedbackPercent: 10, dampingHz: 20000, mixPercent: 50 };
    const clip = clipOf("c", 4800, { steps: [{ id: "d", effect: "delay", on: true, params: echoes }] });
    const heard: number[] = [];
    let frames = 0;
    renderClip(
      { clip, sampleRate: RATE, recordingFrames: RATE * 4, handleFrames: 0, tailFrames: "auto" },
      clicks,
      (l, _r, n) => {
        const block = new Float32Array(memory(), l, n);
        block.forEach((x, i) => x !== 0 && heard.push(frames + i));
        frames += n;
      }
    );
    // 0.25, then each echo 20 dB weaker: the fifth lies at -92 dB and is the first that does not count.
    expect(heard.slice(0, 5)).toEqual([100, 33700, 67300, 100900, 134500]);
    expect(frames / RATE).toBeLessThan(134500 / RATE + 1);
  });

  it("ends a measured tail soon after silence, a fixed one on time", () => {
    const end = clipOf("a", RATE, { offset: 3 * RATE, steps });
    expect(rendered(end, 0, 4800).render.frames).toBe(RATE + 4800);
    expect(rendered(end, 0, "auto").render.frames).toBeLessThan(RATE * 2);
  });
});

describe("levels of a chain", () => {
  it("say of a place that nothing has come to that it is not measured", () => {
    const steps = ["a", "b"].map((id) => ({ id, effect: "limiter", on: true, params: {} }));
    const clip = clipOf("tone", RATE, { steps });
    const analyser = analysePart(barePart(clip), clip, source, RATE, 10);
    expect(analyser.result().stages.map((s) => s.measurement)).toEqual([null, null, null]);
    expect(analyser.result().output).toBeNull();
    // Their delay is longer than one block: nothing has come out of them.
    analyser.advance(1);
    const { stages, output } = analyser.result();
    expect(stages[0]?.measurement?.truePeakDbtp).toBeCloseTo(-12, 0);
    expect([stages[2]?.measurement, output]).toEqual([null, null]);
    analyser.release();
  });

  it("are measured before the first and after every step that is on, and at the output", () => {
    const clip = clipOf("tone", RATE * 2, {
      gainDb: -1,
      steps: [
        { id: "up", effect: "gain", on: true, params: { gainDb: 6 } },
        { id: "off", effect: "gain", on: false, params: { gainDb: 20 } },
        { id: "lim", effect: "limiter", on: true, params: { gainDb: 0, ceilingDb: -9, releaseMs: 50 } }
      ]
    });
    const analyser = analysePart(barePart(clip), clip, source, RATE, 100);
    while (!analyser.advance(5000)) expect(analyser.progress).toBeLessThan(1);
    const { stages, output, before, after } = analyser.result();
    analyser.release();
    expect(stages.map((s) => s.stepId)).toEqual([null, "up", "lim"]);
    const levels = stages.map((s) => s.measurement?.truePeakDbtp ?? NaN);
    expect(levels[0]).toBeCloseTo(-12, 1);
    expect(levels[1]).toBeCloseTo(-6, 1);
    expect(levels[2]).toBeCloseTo(-9, 0);
    expect(output?.truePeakDbtp).toBeCloseTo(levels[2] - 1, 1);
    expect(
      (stages[1].measurement?.integratedLufs ?? NaN) - (stages[0].measurement?.integratedLufs ?? NaN)
    ).toBeCloseTo(6, 2);
    expect(before[50]).toBeCloseTo(10 ** (-12 / 20), 2);
    expect(after[50]).toBeCloseTo(10 ** (-10 / 20), 1);
  });
});
