// Chains of recordings, clips, tracks and the mix: heard, rendered, refused, shared.
import type { Step } from "../../src/lib/core/session/schema";
import { describe, expect, it } from "vitest";
import { effects } from "../../src/lib/core/effects/registry";
import { kernels } from "../../src/lib/core/kernels/instance";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { Plan } from "../../src/lib/core/render/graph";
import { applyCommand, type SingleCommand } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { findClip, resolveClip } from "../../src/lib/core/session/lookup";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import { MIX, ownerFault, stepsOfOwner, type Owner } from "../../src/lib/core/session/owners";
import { ArraySource, mixed, noise, RATE, same, sine } from "./signals";
import { FRAMES, recordingOf, type Chains, project, OWNERS } from "./owned";

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
    expect(refused(track, newStep("h", "hum-removal", { method: "notches", mains: "50" }))).not.toThrow();
    const owner = { table: "recordings" as const, id: "a" };
    for (const { id } of effects.filter((effect) => !effect.clipOnly))
      expect(refused(owner, newStep("x", id)), id).not.toThrow();
    expect(refused(owner, newStep("x", "reverse"))).toThrow("Reverse is for one clip");
    const on = effects.filter(({ id }) => ownerFault("tracks", newStep("x", id)) === undefined);
    expect(on.length).toBe(effects.length - 10);
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
