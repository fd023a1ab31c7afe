// The plan: every owner's chain is heard, in time, at the cost of what sounds, and changes without a click.
import { describe, expect, it } from "vitest";
import { chainTiming } from "../../src/lib/core/effects/chain";
import { effects } from "../../src/lib/core/effects/registry";
import { kernels } from "../../src/lib/core/kernels/instance";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { ClipStream } from "../../src/lib/core/render/clipStream";
import { Plan, trackGains } from "../../src/lib/core/render/graph";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { applyCommand, type SingleCommand } from "../../src/lib/core/session/commands";
import { changesBetween, type Document } from "../../src/lib/core/session/document";
import { findClip, resolveClip } from "../../src/lib/core/session/lookup";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newStep,
  newTrack
} from "../../src/lib/core/session/make";
import { MIX, ownerFault, stepsOfOwner, type Owner } from "../../src/lib/core/session/owners";
import type { Fade, Step } from "../../src/lib/core/session/schema";
import { ArraySource, EVERY_EFFECT, mixed, noise, RATE, same, sine, TestMix } from "./signals";

const FRAMES = 4 * RATE;

function recordingOf(id: string, kind: "import" | "render" = "import") {
  const facts = { name: id, media: null, frames: FRAMES, channels: 2, sampleRate: RATE };
  return newRecording(id, { ...facts, kind });
}

interface Chains {
  readonly clip?: readonly Step[];
  readonly recording?: readonly Step[];
  readonly track?: readonly Step[];
  readonly mix?: readonly Step[];
}

/** One clip of recording "a" on one of two tracks, with these chains. */
function project(chains: Chains, clip: { start?: number; offset?: number; length?: number } = {}): Document {
  const id = (steps: readonly Step[] | undefined, name: string) => (steps && steps.length > 0 ? name : null);
  const base = newProject("Test", RATE);
  return documentOf(
    { ...base, mix: { ...base.mix, chain: id(chains.mix, "cm") } },
    {
      tracks: [newTrack("t", "Voices", 1, { chain: id(chains.track, "ct") }), newTrack("u", "Music", 2)],
      clips: [
        newClip("k", "t", { id: "a", name: "a", frames: FRAMES }, clip.start ?? 0, {
          chain: id(chains.clip, "cc"),
          offset: clip.offset ?? 0,
          length: clip.length ?? FRAMES - (clip.offset ?? 0)
        })
      ],
      recordings: [{ ...recordingOf("a"), chain: id(chains.recording, "cr") }],
      chains: Object.entries({
        cc: chains.clip,
        cr: chains.recording,
        ct: chains.track,
        cm: chains.mix
      }).flatMap(([key, steps]) => (steps && steps.length > 0 ? [newChain(key, steps)] : []))
    }
  );
}

const OWNERS: readonly (readonly [keyof Chains, Owner])[] = [
  ["clip", { table: "clips", id: "k" }],
  ["recording", { table: "recordings", id: "a" }],
  ["track", { table: "tracks", id: "t" }],
  ["mix", MIX]
];

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

describe("chains of every owner", () => {
  const tone = sine(440, -12, FRAMES);
  const where = new ArraySource({ a: [tone, tone] });
  const level = (doc: Document) => Math.max(...mixed(doc, where, 0, 9600)[0]);
  const untreated = level(project({}));

  it.each(OWNERS)("a gain on the %s is heard, by a command, and undone", (name, owner) => {
    const doc = project({});
    const step = newStep("g", "gain", { gainDb: -6 });
    const add: SingleCommand = { type: "step.add", owner, chainId: "new", step, before: null };
    const { document, changes } = applyCommand(doc, add);
    expect(stepsOfOwner(document, owner)).toEqual([step]);
    expect(level(document) / untreated).toBeCloseTo(10 ** (-6 / 20), 4);
    const off = applyCommand(document, { type: "step.set", owner, stepId: "g", on: false }).document;
    expect(mixed(off, where, 0, 20000)).toEqual(mixed(doc, where, 0, 20000));
    const gone = applyCommand(document, { type: "step.remove", owner, stepId: "g" }).document;
    expect(gone.size("chains")).toBe(0);
    expect(changes.map((c) => c.table).sort()).toEqual(["chains", owner.table].sort());
    expect(level(project({ [name]: [step] }))).toBe(level(document));
  });

  it("a chain on a recording is heard by every clip that shows it, before their windows", () => {
    const sounds = new ArraySource({ a: [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)] });
    const reverse = [newStep("r", "reverse")];
    const doc = project({ recording: reverse }, { offset: 1000, length: 20000 });
    const back = noise(FRAMES, 0.3, 1).reverse();
    expect(mixed(doc, sounds, 0, 20000)[0]).toEqual(back.slice(1000, 21000));
    const other = newClip("k2", "u", { id: "a", name: "b", frames: FRAMES }, 30000, {
      offset: 70000,
      length: 900
    });
    const both = applyCommand(doc, { type: "clip.add", clip: other, chain: null }).document;
    expect(mixed(both, sounds, 30000, 900)[0]).toEqual(back.slice(70000, 70900));
  });

  it("the clip's own chain hears what the recording's makes", () => {
    const chains: Chains = {
      recording: [newStep("n", "normalize", { target: "peak", levelDb: -20 })],
      clip: [newStep("m", "normalize", { target: "peak", levelDb: -3 }), newStep("g", "gain", { gainDb: -3 })]
    };
    expect(level(project({ recording: chains.recording }))).toBeCloseTo(0.1, 3);
    expect(level(project(chains))).toBeCloseTo(10 ** (-6 / 20), 3);
  });

  it("what is rendered of a clip whose recording has a chain is what was previewed, bit for bit", () => {
    const sounds = new ArraySource({ a: [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)] });
    const chains: Chains = {
      recording: [
        newStep("n", "normalize", { target: "peak", levelDb: -9 }),
        { ...newStep("l", "limiter", { gainDb: 6, ceilingDb: -6 }), span: { from: 30000, to: 60000 } }
      ],
      clip: [newStep("c", "compressor", { thresholdDb: -30, ratio: 3 })]
    };
    const doc = project(chains, { offset: 20000, length: 70000 });
    const clip = findClip(doc, "k")?.clip;
    if (!clip) throw new Error("no clip");
    const parts: Float32Array[] = [];
    const order = { clip, sampleRate: RATE, recordingFrames: FRAMES, handleFrames: 4800, tailFrames: 0 };
    const render = renderClip(order, sounds, (l, _r, n) =>
      parts.push(new Float32Array(kernels.memory.buffer, l, n).slice())
    );
    const made = Float32Array.from(parts.flatMap((p) => [...p]));
    expect(same(made.subarray(4800, 74800), mixed(doc, sounds, 0, 70000)[0])).toBe(true);
    expect(render.recordingSteps?.map((s) => s.effect)).toEqual(["normalize", "limiter"]);
  });

  it("a render knows of the recording's chain: it no longer matches when that changes", () => {
    const doc = project({
      recording: [newStep("g", "gain", { gainDb: -6 })],
      clip: [newStep("h", "gain", { gainDb: 3 })]
    });
    const clip = doc.get("clips", "k");
    if (!clip) throw new Error("no clip");
    expect(resolveClip(doc, clip).recordingSteps).toHaveLength(1);
    const render = {
      recordingId: "b",
      origin: 0,
      frames: FRAMES,
      steps: [{ effect: "gain", on: true, params: { gainDb: 3 }, span: null }],
      window: { offset: 0, length: FRAMES },
      recordingSteps: [{ effect: "gain", on: true, params: { gainDb: -6 }, span: null }]
    };
    const command: SingleCommand = {
      type: "clip.render",
      clipId: "k",
      recording: recordingOf("b", "render"),
      render
    };
    const rendered = applyCommand(doc, command).document;
    const heard = (d: Document) => new Plan(d).parts(0, 100).map((p) => p.recordingId);
    expect(heard(rendered)).toEqual(["b"]);
    const owner = { table: "recordings" as const, id: "a" };
    const changed = applyCommand(rendered, {
      type: "step.set",
      owner,
      stepId: "g",
      params: { gainDb: -7 }
    }).document;
    expect(heard(changed)).toEqual(["a"]);
    const back = applyCommand(changed, {
      type: "step.set",
      owner,
      stepId: "g",
      params: { gainDb: -6 }
    }).document;
    expect(heard(back)).toEqual(["b"]);
  });

  it("what must hear all of its sound, or counts from its ends, is refused on tracks and the mix with a sentence", () => {
    const refused = (owner: Owner, step: Step) => () =>
      applyCommand(project({}), { type: "step.add", owner, chainId: "n", step, before: null });
    const track = { table: "tracks" as const, id: "t" };
    expect(refused(track, newStep("n", "normalize"))).toThrow(
      "Normalize has to hear all of its sound first, so it cannot be on a track. It can be on clips and on recordings."
    );
    expect(refused(MIX, newStep("r", "reverse"))).toThrow(
      "Reverse has to hear all of its sound first, so it cannot be on the mix."
    );
    expect(refused(MIX, newStep("r", "noise-reduction"))).toThrow("unless it carries a profile");
    expect(refused(track, newStep("f", "fade"))).toThrow("on a track it needs a span");
    expect(refused(track, { ...newStep("f", "fade"), span: { from: 0, to: 9 } })).not.toThrow();
    expect(refused(track, newStep("h", "hum-removal", { mains: "50" }))).not.toThrow();
    const owner = { table: "recordings" as const, id: "a" };
    for (const { id } of effects) expect(refused(owner, newStep("x", id)), id).not.toThrow();
    const on = effects.filter(({ id }) => ownerFault("tracks", newStep("x", id)) === undefined);
    expect(on.length).toBe(effects.length - 7);
  });

  it("goes with its owner", () => {
    const doc = project({ track: [newStep("g", "gain")] });
    const without = applyCommand(doc, { type: "track.remove", trackId: "t" }).document;
    expect(without.size("chains")).toBe(0);
    const bare = applyCommand(project({ recording: [newStep("g", "gain")] }), {
      type: "clip.remove",
      clipIds: ["k"]
    }).document;
    expect(applyCommand(bare, { type: "recording.remove", recordingId: "a" }).document.size("chains")).toBe(
      0
    );
  });
});

describe("linked chains", () => {
  const start = applyCommand(project({ clip: [newStep("g", "gain", { gainDb: -6 })] }), {
    type: "clip.add",
    clip: newClip("k2", "u", { id: "a", name: "b", frames: FRAMES }, 0, { chain: "c2" }),
    chain: newChain("c2", [newStep("h", "gain", { gainDb: 3 })])
  }).document;
  const linked = applyCommand(start, { type: "chain.link", from: "k", clipIds: ["k2"] }).document;

  it("are one chain: what is done to it is heard in both", () => {
    expect(linked.get("clips", "k2")?.chain).toBe("cc");
    expect(linked.get("chains", "c2")).toBeUndefined();
    const owner = { table: "clips" as const, id: "k2" };
    const set = applyCommand(linked, {
      type: "step.set",
      owner,
      stepId: "g",
      params: { gainDb: -9 }
    }).document;
    expect(stepsOfOwner(set, { table: "clips", id: "k" })[0]?.params).toEqual({ gainDb: -9 });
    const empty = applyCommand(linked, { type: "step.remove", owner, stepId: "g" }).document;
    expect(empty.get("chains", "cc")?.steps).toEqual([]);
  });

  it("part again by a command, and a split or a duplicate has a copy", () => {
    const own = applyCommand(linked, {
      type: "chain.unlink",
      clipId: "k2",
      chainId: "c3",
      stepIds: ["g3"]
    }).document;
    expect(own.get("clips", "k2")?.chain).toBe("c3");
    expect(own.get("chains", "c3")?.steps[0]).toEqual({ ...newStep("g", "gain", { gainDb: -6 }), id: "g3" });
    expect(() =>
      applyCommand(own, { type: "chain.unlink", clipId: "k2", chainId: "c4", stepIds: ["g4"] })
    ).toThrow('"b" shares its chain with no other clip.');
    const split: SingleCommand = {
      type: "clip.split",
      clipId: "k2",
      at: 500,
      newId: "k3",
      chainId: "c5",
      stepIds: ["g5"]
    };
    expect(applyCommand(linked, split).document.get("clips", "k3")?.chain).toBe("c5");
    const bare = applyCommand(project({}), { type: "clip.remove", clipIds: [] as unknown as string[] });
    expect(bare.changes).toEqual([]);
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

describe("a change while it plays", () => {
  const tone = sine(200, -12, FRAMES);
  const where = new ArraySource({ a: [tone, tone] });
  const steepest = (x: Float32Array) =>
    x.reduce((a, v, i) => (i === 0 ? 0 : Math.max(a, Math.abs(v - (x[i - 1] ?? 0)))), 0);
  const from = 40 * 512;
  const length = 24 * 512;

  type Params = Record<string, number | string | boolean>;

  /** Every value at the ends of its range, and every choice, one at a time. */
  function valuesOf(id: string): [string, Params][] {
    const effect = effects.find((e) => e.id === id);
    const out: [string, Params][] = [];
    for (const param of effect?.params ?? []) {
      const values =
        param.kind === "number"
          ? [param.min, param.max]
          : param.kind === "choice"
            ? param.choices.map((c) => c.value)
            : param.kind === "switch"
              ? [!param.default]
              : [];
      for (const value of values) out.push([`${param.id} ${value}`, { [param.id]: value }]);
    }
    return out;
  }

  const streaming = (name: keyof Chains, id: string) =>
    name === "clip" || name === "recording" ? true : ownerFault("tracks", newStep("x", id)) === undefined;

  it.each(
    OWNERS.flatMap(([name, owner]) =>
      effects.filter((e) => streaming(name, e.id)).map((e) => [name, e.id, owner] as const)
    )
  )(
    "on the %s of any parameter of %s goes over within 20 ms without a click",
    (name, id, owner) => {
      const base = EVERY_EFFECT.find((s) => s.effect === id)?.params ?? {};
      const doc = project({ [name]: [newStep("x", id, base)] });
      const steady = (d: Document) => mixed(d, where, from, length)[0];
      const old = steady(doc);
      for (const [what, params] of valuesOf(id)) {
        let next: Document;
        try {
          next = applyCommand(doc, { type: "step.set", owner, stepId: "x", params }).document;
        } catch (error) {
          expect(String(error)).toContain("has to hear all of its sound first");
          continue;
        }
        const mix = new TestMix(doc, where, from);
        mix.update(next);
        const [out] = mix.read(length);
        mix.release();
        const fresh = steady(next);
        const allowed = 1.05 * Math.max(steepest(old), steepest(fresh)) + 0.002;
        expect(steepest(out), what).toBeLessThan(allowed);
        // 20 ms, and what a bus has read ahead before it knew.
        for (let i = 960 + 9000; i < length; i += 50)
          expect(Math.abs((out[i] ?? 0) - (fresh[i] ?? 0)), `${what} at ${i}`).toBeLessThan(2e-4);
      }
    },
    120000
  );

  it.each(OWNERS)("of the first and the last step on the %s makes no gap", (name) => {
    const bare = project({});
    const treated = project({ [name]: [newStep("l", "limiter", { gainDb: 6 })] });
    for (const [a, b] of [
      [bare, treated],
      [treated, bare]
    ] as const) {
      const mix = new TestMix(a, where, from);
      mix.read(5000);
      mix.update(b);
      const [out] = mix.read(length);
      const [fresh] = mixed(b, where, from + 5000, length);
      const [before] = mixed(a, where, from + 5000, length);
      expect(steepest(out)).toBeLessThan(1.05 * Math.max(steepest(fresh), steepest(before)) + 0.002);
      for (let i = 3000; i < length; i++)
        expect(Math.abs((out[i] ?? 0) - (fresh[i] ?? 0))).toBeLessThan(1e-4);
      mix.release();
    }
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
