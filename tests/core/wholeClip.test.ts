import { describe, expect, it } from "vitest";
import { BLOCK } from "../../src/lib/core/audio/block";
import { MemorySpool } from "../../src/lib/core/audio/spool";
import { PLAIN_CURVES, fadeGain } from "../../src/lib/core/audio/fades";
import { normalize, NORMALIZE_TARGETS, type NormalizeTarget } from "../../src/lib/core/effects/normalize";
import { Meter } from "../../src/lib/core/measure/meter";
import { renderClip } from "../../src/lib/core/render/clipRender";
import type { Learnt } from "../../src/lib/core/effects/description";
import type { ResolvedClip } from "../../src/lib/core/session/lookup";
import { kernels } from "../../src/lib/core/kernels/instance";
import { recorded } from "./recorded";
import {
  ArraySource,
  clipOf,
  documentWith,
  eachBlock,
  mixed,
  noise,
  RATE,
  sine,
  step,
  throughChain,
  type ClipChange
} from "./signals";

const speech = recorded("speech", RATE);
const quiet = speech.left.map((x) => x * 0.2);

function measured(l: Float32Array, r: Float32Array) {
  const meter = new Meter(RATE);
  eachBlock(l, r, BLOCK, (a, b, n) => meter.push(a, b, n));
  const result = meter.result();
  meter.release();
  return result;
}

describe("normalize", () => {
  const targets = Object.keys(NORMALIZE_TARGETS) as NormalizeTarget[];
  it.each(targets)("brings recorded speech to a level of %s within 0.01", (target) => {
    const [l, r] = throughChain([step("normalize", { target, levelDb: -18 })], quiet);
    expect(Math.abs(measured(l, r)[NORMALIZE_TARGETS[target].key] - -18)).toBeLessThan(0.01);
  });

  it("stops where the true peak would pass the ceiling", () => {
    const [l, r] = throughChain(
      [step("normalize", { target: "integrated", levelDb: -5, ceilingDb: -1 })],
      quiet
    );
    expect(Math.abs(measured(l, r).truePeakDbtp - -1)).toBeLessThan(0.01);
  });

  it("measures what the steps before it make, wherever it stands, and leaves silence alone", () => {
    const steps = [
      step("limiter", { gainDb: 20, ceilingDb: -3 }),
      step("normalize", { target: "integrated", levelDb: -23 }),
      step("gain", { gainDb: -2 })
    ];
    const [l, r] = throughChain(steps, quiet);
    expect(Math.abs(measured(l, r).integratedLufs - -25)).toBeLessThan(0.01);
    const silence = new Float32Array(RATE);
    expect(throughChain([step("normalize")], silence)[0]).toEqual(silence);
  });

  it("says so of what has no such level: a loudness needs 400 ms (EBU Tech 3341)", () => {
    const said = (frames: number, target: NormalizeTarget) => {
      const learning = normalize.learn?.({ target, levelDb: -16, ceilingDb: 20 }, RATE, {
        channels: 2,
        frames,
        spool: () => new MemorySpool()
      });
      const sound = noise(frames, 0.5, 1);
      eachBlock(sound, sound, BLOCK, (a, b, n) => learning?.push(a, b, n));
      const { values } = learning?.finish() ?? { values: {} };
      learning?.release();
      return normalize.found?.(values);
    };
    expect(said(RATE / 100, "integrated")).toContain("too short to have one: it stays as it is");
    expect(said(RATE / 100, "peak")).toMatch(/^Gain -?\+?\d+\.\d\d dB\.$/);
    expect(said(RATE, "integrated")).toMatch(/^Gain -\d+\.\d\d dB\.$/);
  });
});

describe("reverse", () => {
  it("plays the clip backwards, sample for sample; twice is as before", () => {
    const [l, r] = [noise(70001, 0.5, 1), noise(70001, 0.5, 2)];
    const [a, b] = throughChain([step("reverse")], l, r);
    expect(a).toEqual(l.slice().reverse());
    expect(b).toEqual(r.slice().reverse());
    expect(throughChain([step("reverse"), step("reverse")], l, r)[0]).toEqual(l);
  });

  it("makes a delay before it come ahead of its sound", () => {
    const click = new Float32Array(RATE);
    click[10000] = 1;
    const [out] = throughChain(
      [step("delay", { timeMs: 100, feedbackPercent: 0, mixPercent: 50 }), step("reverse")],
      click
    );
    const heard = [...out].flatMap((x, i) => (x === 0 ? [] : [i]));
    expect(heard).toEqual([RATE - 1 - 14800, RATE - 1 - 10000]);
  });
});

describe("fade and silence", () => {
  it.each(PLAIN_CURVES)("a %s fade in and out is its formula, sample for sample", (curve) => {
    const ones = new Float32Array(20000).fill(1);
    const [out] = throughChain(
      [step("fade", { inS: 0.1, inCurve: curve, outS: 0.05, outCurve: curve })],
      ones
    );
    for (let i = 0; i < 4800; i += 7) expect(out[i]).toBe(Math.fround(fadeGain((i + 0.5) / 4800, { curve })));
    for (let i = 0; i < 2400; i += 7)
      expect(out[19999 - i]).toBe(Math.fround(fadeGain((i + 0.5) / 2400, { curve })));
    expect(out.subarray(4800, 17600)).toEqual(ones.subarray(4800, 17600));
  });

  it("silence mutes exactly its stretch, with ramps inside", () => {
    const wave = noise(RATE, 0.5);
    const [hard] = throughChain([step("silence", { fromS: 0.25, toS: 0.5, edgeMs: 0 })], wave);
    hard.forEach((x, i) => expect(x).toBe(i >= 12000 && i < 24000 ? 0 : wave[i]));
    const [soft] = throughChain([step("silence", { fromS: 0.25, edgeMs: 1 })], wave);
    expect(soft.subarray(0, 12000)).toEqual(wave.subarray(0, 12000));
    expect(soft.subarray(12048).every((x) => x === 0)).toBe(true);
    for (let i = 0; i < 48; i++) expect(soft[12000 + i]).toBeCloseTo(wave[12000 + i] * ((47.5 - i) / 48), 6);
  });

  it("silence to the clip's own ends leaves nothing of it", () => {
    const wave = noise(RATE, 0.5);
    const [all] = throughChain([step("silence", { edgeMs: 5 })], wave);
    expect(all).toEqual(new Float32Array(RATE));
    const [start] = throughChain([step("silence", { toS: 0.25, edgeMs: 5 })], wave);
    expect(start.subarray(0, 12000 - 240).every((x) => x === 0)).toBe(true);
    expect(start.subarray(12000)).toEqual(wave.subarray(12000));
  });

  it("what follows a fade in the chain rings on over it", () => {
    const wave = sine(440, -6, RATE);
    const chain = [
      step("fade", { outS: 0.2 }),
      step("delay", { timeMs: 150, feedbackPercent: 0, mixPercent: 50 })
    ];
    const [out] = throughChain(chain, wave);
    expect(Math.abs(out[RATE - 1])).toBeGreaterThan(0);
  });
});

describe("steps that learn, in clips", () => {
  const source = new ArraySource({ a: [quiet, quiet], n: [noise(RATE * 4, 0.05), noise(RATE * 4, 0.05, 2)] });
  const clip = (change: ClipChange): ResolvedClip =>
    clipOf("a", RATE * 3, {
      offset: RATE,
      steps: [
        { id: "n", effect: "normalize", on: true, params: { target: "peak", levelDb: -3 } },
        { id: "r", effect: "reverse", on: true, params: {} }
      ],
      ...change
    });
  const play = (c: ResolvedClip, from: number, frames: number, where = source) =>
    mixed(documentWith(c), where, from, frames)[0];

  it("play from any place what a whole run gives", () => {
    const whole = play(clip({}), 0, RATE * 3);
    const window = quiet.subarray(RATE, RATE * 4);
    const peak = window.reduce((a, x) => Math.max(a, Math.abs(x)), 0);
    whole.forEach((x, i) =>
      expect(Math.abs(x - (window[RATE * 3 - 1 - i] / peak) * 10 ** (-3 / 20))).toBeLessThan(1e-6)
    );
    expect(play(clip({}), 50000, 20000)).toEqual(whole.subarray(50000, 70000));
  });

  it("learn once, and anew when anything before them changes", () => {
    const kept = new Map<string, readonly (Learnt | undefined)[]>();
    const remembering = Object.assign(new ArraySource({ a: [quiet, quiet] }), { learnt: kept });
    play(clip({}), 0, 1000, remembering);
    play(clip({ gainDb: -3, start: 4800 }), 4800, 1000, remembering);
    expect(kept.size).toBe(1);
    play(clip({ length: RATE * 2 }), 0, 1000, remembering);
    expect(kept.size).toBe(2);
  });

  it("render with handles as they play, bit for bit", () => {
    const parts: Float32Array[] = [];
    const render = renderClip(
      { clip: clip({}), sampleRate: RATE, recordingFrames: quiet.length, handleFrames: 4800, tailFrames: 0 },
      source,
      (l, _r, n) => parts.push(new Float32Array(kernels.memory.buffer, l, n).slice())
    );
    const sound = Float32Array.from(parts.flatMap((p) => [...p]));
    expect(render.frames).toBe(RATE * 3 + 9600);
    expect(sound.subarray(4800, 4800 + RATE * 3)).toEqual(play(clip({}), 0, RATE * 3));
  });

  it("noise reduction learns from the clip's own quietest stretch, not from elsewhere", () => {
    const steps = [{ id: "d", effect: "noise-reduction", on: true, params: {} }];
    const hiss = play(clipOf("n", RATE * 3, { steps }), RATE, RATE);
    const before = noise(RATE * 4, 0.05).subarray(RATE, RATE * 2);
    const rms = (x: Float32Array) => Math.sqrt(x.reduce((a, v) => a + v * v, 0) / x.length);
    expect(20 * Math.log10(rms(hiss) / rms(before))).toBeLessThan(-12);
  });
});
