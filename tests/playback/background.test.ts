// What changed clips need is computed by itself; until then they sound as they did.
import { describe, expect, it } from "vitest";
import { Plan } from "../../src/lib/core/render/graph";
import { MixStream } from "../../src/lib/core/render/mix";
import { prePassKey } from "../../src/lib/core/render/prePass";
import type { SoundPart } from "../../src/lib/core/render/soundPart";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { applyCommand, type SingleCommand } from "../../src/lib/core/session/commands";
import { newStep } from "../../src/lib/core/session/make";
import { Background } from "../../src/lib/playback/background";
import { FRAMES, project } from "../core/owned";
import { ArraySource, noise, RATE, same } from "../core/signals";

const source = new ArraySource({
  a: [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)],
  b: [noise(FRAMES, 0.1, 3), noise(FRAMES, 0.1, 4)]
});
const GAIN = newStep("g", "gain", { gainDb: -6 });
const NORMALIZE = newStep("n", "normalize", { target: "integrated", levelDb: -30 });

/** What computes when it is told to. */
class Computer {
  readonly known = new Set<string>();
  readonly asked: string[] = [];
  #let: (() => void) | undefined;
  fails = false;

  #key = (part: SoundPart) => prePassKey(part, RATE);

  knows(part: SoundPart): boolean {
    const key = this.#key(part);
    return key === undefined || this.known.has(key);
  }

  async prepare([part]: readonly SoundPart[], wanted: () => boolean): Promise<boolean> {
    const key = this.#key(part) ?? "";
    this.asked.push(key);
    await new Promise<void>((resolve) => (this.#let = resolve));
    if (this.fails) throw new Error("No.");
    if (!wanted()) return false;
    this.known.add(key);
    return true;
  }

  async finish(): Promise<void> {
    this.#let?.();
    for (let i = 0; i < 5; i++) await Promise.resolve();
  }
}

function at(from: number, plan: Plan): Float32Array {
  const mix = new MixStream(plan, source, from);
  const block = new StereoBlock(1024);
  mix.read(block.left.ptr, block.right.ptr, 1024);
  const out = block.left.f32.slice();
  mix.release();
  block.release();
  return out;
}

function start() {
  const plan = new Plan(project({ clip: [GAIN] }, { start: 0 }));
  const computer = new Computer();
  const told: string[][] = [];
  let ready = 0;
  const background = new Background(
    () => plan,
    computer,
    () => 0,
    { oncomputing: (ids) => told.push([...ids]), onready: () => ready++ }
  );
  const run = (command: SingleCommand) => {
    const before = plan.document;
    const { document, changes } = applyCommand(before, command);
    plan.update(document, changes);
    background.changed(before, changes);
  };
  return { plan, computer, background, run, told, ready: () => ready };
}

const OWNER = { table: "clips", id: "k" } as const;
const ADD: SingleCommand = { type: "step.add", owner: OWNER, chainId: "x", step: NORMALIZE, before: null };
const LOUDER: SingleCommand = { type: "step.set", owner: OWNER, stepId: "n", params: { levelDb: -20 } };

describe("computing in the background", () => {
  it("lets a clip sound as before until what it needs is there", async () => {
    const { plan, computer, run, told, ready, background } = start();
    const before = at(0, plan);
    run(ADD);
    expect(told.at(-1)).toEqual(["k"]);
    expect(same(at(0, plan), before)).toBe(true);
    expect(plan.parts(0, RATE).map(({ steps }) => steps.length)).toEqual([1]);
    await computer.finish();
    await background.idle;
    expect(told.at(-1)).toEqual([]);
    expect(ready()).toBe(1);
    expect(plan.parts(0, RATE).map(({ steps }) => steps.length)).toEqual([2]);
    expect(same(at(0, plan), before)).toBe(false);
  });

  it("takes over at once what needs nothing, also of a clip that waits", () => {
    const { plan, run } = start();
    run(ADD);
    run({ type: "clip.set", clipIds: ["k"], gainDb: -20 });
    const [voice] = plan.voices("t", 0, RATE);
    expect([voice.gainDb, voice.steps.length]).toEqual([-20, 1]);
  });

  it("goes on with the newest when a clip changes meanwhile, and with nothing when that is taken back", async () => {
    const { plan, computer, run, background } = start();
    run(ADD);
    run(LOUDER);
    await computer.finish();
    expect(computer.asked).toHaveLength(2);
    expect(computer.known.size).toBe(0);
    run({ type: "step.remove", owner: OWNER, stepId: "n" });
    await computer.finish();
    await background.idle;
    expect(computer.known.size).toBe(0);
    expect(plan.held("k")).toBeUndefined();
  });

  it("lets go of a clip that cannot be computed: it says why when it is to sound", async () => {
    const { plan, computer, run, background, told } = start();
    computer.fails = true;
    run(ADD);
    await computer.finish();
    await background.idle;
    expect(plan.held("k")).toBeUndefined();
    expect(told.at(-1)).toEqual([]);
  });

  it("holds nothing that would have to be computed itself, and nothing when it is switched off", () => {
    const { plan, run, background, ready } = start();
    run(ADD);
    expect(plan.held("k")).toBeDefined();
    background.on = false;
    expect(plan.held("k")).toBeUndefined();
    // It is offered at once, not with the next change.
    expect(ready()).toBe(1);
    background.on = false;
    expect(ready()).toBe(1);
    run({ type: "clip.set", clipIds: ["k"], muted: true });
    run({ type: "clip.set", clipIds: ["k"], muted: false });
    expect(plan.held("k")).toBeUndefined();
    background.on = true;
    // What it was before has never been computed either.
    run(LOUDER);
    expect(plan.held("k")).toBeUndefined();
  });
});
