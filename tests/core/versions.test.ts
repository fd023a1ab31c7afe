// Kept states of a clip's treatment, square one, and what is done to all clips of a recording or to one alone.
import { describe, expect, it } from "vitest";
import { Plan } from "../../src/lib/core/render/graph";
import {
  applyCommand,
  inverseOf,
  applyChanges,
  type Command,
  type SingleCommand
} from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { findClip, sharers, tracksInOrder } from "../../src/lib/core/session/lookup";
import { newClip, newStep } from "../../src/lib/core/session/make";
import { MOST_VERSIONS } from "../../src/lib/core/session/schema";
import { FRAMES, project, recordingOf } from "./owned";
import { ArraySource, mixed, noise, same } from "./signals";

const sound = [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)] as [Float32Array, Float32Array];
const own = noise(FRAMES, 0.2, 7);
const source = new ArraySource({ a: sound, "a-2": sound, r: [own, own] });
const gain = (id: string, gainDb: number) => newStep(id, "gain", { gainDb });
const STEPS = [gain("g", -6), newStep("l", "limiter", { gainDb: 6, ceilingDb: -6 })];
const run = (doc: Document, ...commands: Command[]) =>
  commands.reduce((d, command) => applyCommand(d, command).document, doc);
const heard = (doc: Document, from = 0, frames = 20000) => mixed(doc, source, from, frames)[0];
const version = (id: string, name = id) => ({ id, name, made: "2026-02-03T04:05:06.000Z", lufs: -21.5 });
const IDS = ["n1", "n2", "n3"];

function clipOf(doc: Document, id = "k") {
  const clip = findClip(doc, id)?.clip;
  if (!clip) throw new Error("no clip");
  return clip;
}

const RENDER: SingleCommand = {
  type: "clip.render",
  clipId: "k",
  recording: recordingOf("r", "render"),
  render: {
    recordingId: "r",
    origin: 0,
    frames: FRAMES,
    steps: STEPS.map(({ id: _id, ...step }) => step),
    window: { offset: 0, length: FRAMES }
  },
  version: version("v1", "a, Gain, Limiter")
};

describe("versions", () => {
  it("are kept at a render, and stay when it is restored; going back plays the render again", () => {
    const doc = project({ clip: STEPS });
    const rendered = run(doc, RENDER);
    expect(heard(rendered)).toEqual(own.subarray(0, 20000));
    const restored = run(rendered, { type: "clip.restore", clipIds: ["k"] });
    expect(same(heard(restored), heard(doc))).toBe(true);
    expect(clipOf(restored).versions?.map(({ name, lufs }) => [name, lufs])).toEqual([
      ["a, Gain, Limiter", -21.5]
    ]);
    const owner = { table: "clips" as const, id: "k" };
    const other = run(restored, { type: "step.set", owner, stepId: "g", params: { gainDb: 3 } });
    const back = run(other, {
      type: "version.use",
      clipId: "k",
      versionId: "v1",
      chainId: "c9",
      stepIds: IDS
    });
    expect(heard(back)).toEqual(own.subarray(0, 20000));
    expect(clipOf(back).steps.map(({ effect, params }) => [effect, params.gainDb])).toEqual([
      ["gain", -6],
      ["limiter", 6]
    ]);
    const live = run(back, { type: "clip.restore", clipIds: ["k"] });
    expect(same(heard(live), heard(doc))).toBe(true);
  });

  it("are kept on request without a render, renamed, and taken away", () => {
    const doc = run(project({ clip: STEPS }), { type: "version.keep", clipId: "k", version: version("v1") });
    const off = run(doc, { type: "clip.squareOne", clipIds: ["k"] });
    expect(same(heard(off), sound[0].subarray(0, 20000))).toBe(true);
    expect(off.size("chains")).toBe(0);
    const back = run(off, { type: "version.use", clipId: "k", versionId: "v1", chainId: "c9", stepIds: IDS });
    expect(same(heard(back), heard(doc))).toBe(true);
    const renamed = run(back, { type: "version.set", clipId: "k", versionId: "v1", name: "Warm" });
    expect(clipOf(renamed).versions?.[0]?.name).toBe("Warm");
    const gone = run(renamed, { type: "version.remove", clipId: "k", versionId: "v1" });
    expect(clipOf(gone).versions).toEqual([]);
    expect(() => run(gone, { type: "version.set", clipId: "k", versionId: "v1", name: "x" })).toThrow(
      '"a" no longer has that version.'
    );
  });

  it("hold on to their recordings, and the oldest goes when there are too many", () => {
    const doc = run(project({ clip: STEPS }), RENDER, { type: "clip.restore", clipIds: ["k"] });
    const remove: SingleCommand = { type: "recording.remove", recordingId: "r" };
    expect(() => run(doc, remove)).toThrow('"r" is used by "a".');
    expect(() => run(doc, { type: "recording.bin", recordingIds: ["r"], at: 1 })).toThrow(
      '"r" is used by "a".'
    );
    const many = Array.from({ length: MOST_VERSIONS }, (_, i): SingleCommand => ({
      type: "version.keep",
      clipId: "k",
      version: version(`w${i}`)
    }));
    const full = run(doc, ...many);
    expect(clipOf(full).versions).toHaveLength(MOST_VERSIONS);
    expect(run(full, remove).get("recordings", "r")).toBeUndefined();
  });

  it("lie beside the present one on a track of their own, where they sound as they did", () => {
    const doc = run(project({ clip: STEPS }), RENDER);
    const owner = { table: "clips" as const, id: "k" };
    const changed = run(doc, { type: "step.set", owner, stepId: "g", params: { gainDb: -20 } });
    const beside = run(changed, {
      type: "version.beside",
      clipId: "k",
      versionId: "v1",
      trackId: "new",
      chainId: "c9",
      stepIds: IDS,
      seed: "seed"
    });
    expect(tracksInOrder(beside).map(({ name }) => name)).toEqual([
      "Voices",
      "Voices: a, Gain, Limiter",
      "Music"
    ]);
    const [copy] = [...beside.values("clips")].filter((clip) => clip.track === "new");
    expect(copy).toMatchObject({ start: 0, length: FRAMES, name: "a, a, Gain, Limiter" });
    const alone = run(beside, { type: "track.set", trackId: "t", muted: true });
    expect(heard(alone)).toEqual(own.subarray(0, 20000));
    expect(new Plan(beside).voices("new", 0, 10)[0]?.steps.map((step) => step.params.gainDb)).toEqual([
      -6, 6
    ]);
  });
});

describe("square one", () => {
  it("takes all treatment off, and comes back in one step", () => {
    const doc = run(
      project({ clip: STEPS }),
      RENDER,
      {
        type: "clip.set",
        clipIds: ["k"],
        gainDb: 3,
        ringOut: { frames: null },
        line: { join: "smooth", points: [{ at: 0, value: -6 }] }
      },
      { type: "clip.fade", clipIds: ["k"], edge: "in", fade: { length: 4000, shape: { curve: "smooth" } } }
    );
    const command: SingleCommand = { type: "clip.squareOne", clipIds: ["k"] };
    const { document, changes } = applyCommand(doc, command);
    expect(same(heard(document), sound[0].subarray(0, 20000))).toBe(true);
    expect(applyChanges(document, inverseOf(command, changes)).toJson()).toEqual(doc.toJson());
  });
});

describe("recordings that several clips show", () => {
  const two = (steps = STEPS) =>
    run(project({ clip: steps }, { length: 30000 }), {
      type: "clip.add",
      clip: newClip("m", "u", { id: "a", name: "b", frames: FRAMES }, 50000, { length: 30000 }),
      chain: null
    });

  it("take over steps of one clip for all that show them; the others hear them as that one did", () => {
    const doc = two();
    const all = run(doc, { type: "steps.toRecording", clipId: "k", stepIds: ["g", "l"], chainId: "c9" });
    expect(same(heard(all), heard(doc))).toBe(true);
    expect(same(heard(all, 50000), heard(doc))).toBe(true);
    expect(clipOf(all).chain).toBeNull();
    const reversed = two([newStep("x", "reverse")]);
    expect(() =>
      run(reversed, { type: "steps.toRecording", clipId: "k", stepIds: ["x"], chainId: "c9" })
    ).toThrow("Reverse is for one clip");
  });

  it("are told apart when a clip is made independent: the other's treatment no longer reaches it", () => {
    const doc = run(two([]), {
      type: "step.add",
      owner: { table: "recordings", id: "a" },
      chainId: "c8",
      step: gain("q", -6),
      before: null
    });
    const apart = run(doc, {
      type: "clip.independent",
      clipIds: ["m"],
      recordingId: "a-2",
      name: "a (2)",
      chainId: "c9",
      stepIds: IDS
    });
    expect(same(heard(apart, 50000), heard(doc, 50000))).toBe(true);
    expect(sharers(apart, clipOf(apart))).toEqual([]);
    const louder = run(apart, {
      type: "step.set",
      owner: { table: "recordings", id: "a" },
      stepId: "q",
      params: { gainDb: 0 }
    });
    expect(same(heard(louder, 50000), heard(doc, 50000))).toBe(true);
    expect(same(heard(louder), heard(doc))).toBe(false);
  });

  it("go to the bin only when nothing uses them, and come back", () => {
    const doc = run(project({}), { type: "recording.add", recording: recordingOf("b") });
    const binned = run(doc, { type: "recording.bin", recordingIds: ["b"], at: 5000 });
    expect(binned.get("recordings", "b")?.binned).toBe(5000);
    expect(run(binned, { type: "recording.bin", recordingIds: ["b"], at: null }).toJson()).toEqual(
      doc.toJson()
    );
    expect(() => run(doc, { type: "recording.bin", recordingIds: ["a"], at: 5000 })).toThrow(
      '"a" is used by "a".'
    );
  });
});
