// For the output that must not wait: what was changed, what begins at a cut and the loop's start are run in beside what plays.
import { describe, expect, it } from "vitest";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { Plan } from "../../src/lib/core/render/graph";
import { MixStream } from "../../src/lib/core/render/mix";
import { applyCommand, type Command } from "../../src/lib/core/session/commands";
import { changesBetween, type Document } from "../../src/lib/core/session/document";
import { newStep } from "../../src/lib/core/session/make";
import { Producer } from "../../src/lib/playback/producer";
import { dB } from "./analysis";
import { FRAMES, project } from "./owned";
import { ArraySource, mixed, noise, RATE } from "./signals";

const sound = [1, 2].map((seed) =>
  noise(FRAMES, 0.5, seed).map((x, i) => x * (Math.floor(i / 9000) % 2 === 0 ? 1 : 0.06))
) as [Float32Array, Float32Array];

/** Counts the frames that are read of it. */
class Counted extends ArraySource {
  frames = 0;

  constructor() {
    super({ a: sound });
  }

  override read(id: string, from: number, frames: number, left: number, right: number): void {
    this.frames += frames;
    super.read(id, from, frames, left, right);
  }
}

const run = (doc: Document, command: Command) => applyCommand(doc, command).document;
const COMPRESSED = project({
  clip: [newStep("c", "compressor", { thresholdDb: -40, ratio: 6, releaseMs: 400 })]
});
const LOUDER = run(COMPRESSED, {
  type: "step.set",
  owner: { table: "clips", id: "k" },
  stepId: "c",
  params: { makeUpDb: 9 }
});
const CHANGE = Math.round(0.015 * RATE);

/** A mix as the output's worker runs it. */
class Gentle {
  readonly source = new Counted();
  readonly #plan: Plan;
  readonly stream: MixStream;
  readonly #block = new StereoBlock(BLOCK);

  constructor(doc: Document, from: number) {
    this.#plan = new Plan(doc);
    this.stream = new MixStream(this.#plan, this.source, from, undefined, true);
  }

  change(doc: Document): void {
    this.#plan.update(doc, changesBetween(this.#plan.document, doc));
    this.stream.update();
  }

  /** The left side of the next frames, and the most frames of recordings that one block took. */
  read(frames: number): { out: Float32Array; most: number } {
    const out = new Float32Array(frames);
    let most = 0;
    for (let at = 0; at < frames; at += BLOCK) {
      const n = Math.min(BLOCK, frames - at);
      const before = this.source.frames;
      this.stream.read(this.#block.left.ptr, this.#block.right.ptr, n);
      most = Math.max(most, this.source.frames - before);
      out.set(this.#block.left.f32.subarray(0, n), at);
    }
    return { out, most };
  }

  /** Does all that can wait. Returns in how many turns. */
  settle(ahead = 0): number {
    let turns = 1;
    while (!this.stream.advance(BLOCK, ahead)) turns++;
    return turns;
  }

  release(): void {
    this.stream.release();
    this.#block.release();
  }
}

/** Largest difference between a sound and the beginning of another. */
const most = (a: ArrayLike<number>, b: ArrayLike<number>) => {
  let top = 0;
  for (let i = 0; i < a.length; i++) top = Math.max(top, Math.abs((a[i] ?? 0) - (b[i] ?? 0)));
  return top;
};
const plain = (doc: Document, from: number, frames: number) => mixed(doc, new Counted(), from, frames)[0];

describe("a change while sound runs", () => {
  it("is not heard before it has been run in, however long that takes; no block waits for it", () => {
    const mix = new Gentle(COMPRESSED, 48000);
    mix.read(10240);
    mix.change(LOUDER);
    expect(mix.stream.settled).toBe(false);
    const { out, most: taken } = mix.read(20480);
    expect(most(out, plain(COMPRESSED, 48000, 30720).subarray(10240))).toBe(0);
    expect(taken).toBeLessThanOrEqual(2 * BLOCK);
    expect(mix.settle()).toBeGreaterThan(10);
    const after = mix.read(20480);
    expect(mix.stream.settled).toBe(true);
    expect(after.most).toBeLessThanOrEqual(3 * BLOCK);
    const want = plain(LOUDER, 48000, 51200).subarray(30720);
    expect(dB(most(after.out.subarray(CHANGE), want.subarray(CHANGE)))).toBeLessThan(-100);
    expect(dB(most(after.out.subarray(0, 10), want.subarray(0, 10)))).toBeGreaterThan(-60);
    mix.release();
  });

  it.each(["track", "mix"] as const)("of the chain of a %s is run in beside what plays as well", (name) => {
    const chain = (makeUpDb: number) =>
      project({
        [name]: [newStep("c", "compressor", { thresholdDb: -40, ratio: 6, releaseMs: 400, makeUpDb })]
      });
    const mix = new Gentle(chain(0), 20000);
    mix.read(81920);
    mix.change(chain(9));
    expect(mix.stream.settled).toBe(false);
    const [before, after] = [plain(chain(0), 20000, 122880), plain(chain(9), 20000, 122880)];
    expect(most(mix.read(20480).out, before.subarray(81920))).toBe(0);
    expect(mix.settle()).toBeGreaterThan(10);
    const { out } = mix.read(20480);
    expect(mix.stream.settled).toBe(true);
    expect(dB(most(out.subarray(CHANGE), after.subarray(102400 + CHANGE)))).toBeLessThan(-100);
    mix.change(chain(3));
    mix.change(chain(0));
    // Never any time: it comes all the same.
    mix.read(102400);
    expect(mix.stream.settled).toBe(true);
    mix.release();
  });

  it("is heard after two seconds where there is never any time for it", () => {
    const mix = new Gentle(COMPRESSED, 20000);
    mix.read(10240);
    mix.change(LOUDER);
    const { out } = mix.read(120832);
    const [before, after] = [plain(COMPRESSED, 20000, 131072), plain(LOUDER, 20000, 131072)].map((x) =>
      x.subarray(10240)
    );
    expect(most(out.subarray(0, 96000), before?.subarray(0, 96000) ?? [])).toBe(0);
    expect(dB(most(out.subarray(100000), after?.subarray(100000) ?? []))).toBeLessThan(-100);
    mix.release();
  });

  it("goes back at once, to what has been kept at work: as if it had never gone", () => {
    const mix = new Gentle(COMPRESSED, 48000);
    mix.read(10240);
    mix.change(LOUDER);
    mix.settle();
    mix.read(20480);
    mix.change(COMPRESSED);
    // No run-in: at most what was read since it was brought up last.
    expect(mix.settle()).toBeLessThan(20480 / BLOCK + 3);
    const { out } = mix.read(10240);
    const want = plain(COMPRESSED, 48000, 40960).subarray(30720);
    expect(most(out.subarray(CHANGE), want.subarray(CHANGE))).toBe(0);
    mix.release();
  });

  it("takes the newest of several, and lets a clip that was removed go at once", () => {
    const mix = new Gentle(COMPRESSED, 48000);
    mix.read(5120);
    mix.change(LOUDER);
    mix.stream.advance(BLOCK, 0);
    mix.change(run(LOUDER, { type: "clip.set", clipIds: ["k"], gainDb: -6 }));
    mix.settle();
    mix.read(5120);
    const quieter = plain(run(LOUDER, { type: "clip.set", clipIds: ["k"], gainDb: -6 }), 48000, 20480);
    expect(dB(most(mix.read(5120).out, quieter.subarray(10240, 15360)))).toBeLessThan(-100);
    mix.change(run(COMPRESSED, { type: "clip.set", clipIds: ["k"], muted: true }));
    expect(most(mix.read(5120).out.subarray(CHANGE), new Float32Array(5120))).toBe(0);
    mix.release();
  });
});

describe("what begins later", () => {
  it("at a cut is run in before: no block of it takes more than others, and it sounds the same", () => {
    const cut = run(COMPRESSED, {
      type: "clip.cut",
      cuts: [{ clipId: "k", at: [100000] }],
      blend: 0,
      seed: "s"
    });
    const mix = new Gentle(cut, 60000);
    const first = mix.read(20480);
    mix.settle(48000);
    const { out, most: taken } = mix.read(40960);
    const whole = plain(cut, 60000, 61440);
    expect(most(first.out, whole)).toBe(0);
    expect(most(out, whole.subarray(20480))).toBe(0);
    expect(taken).toBeLessThanOrEqual(2 * BLOCK);
    mix.release();
    // Without it the whole run-in falls into one block.
    const late = new Gentle(cut, 60000);
    expect(late.read(61440).most).toBeGreaterThan(20 * BLOCK);
    late.release();
  });

  it("at a loop's start is run in while its end comes near", () => {
    const loop = { from: 90000, to: 120000 };
    const lap = (advances: boolean) => {
      const source = new Counted();
      const producer = new Producer(new Plan(COMPRESSED), source, 100000, loop);
      const block = new StereoBlock(BLOCK);
      const out: number[] = [];
      let taken = 0;
      while (out.length < 40000) {
        const before = source.frames;
        const n = producer.next(block.left.ptr, block.right.ptr, BLOCK);
        if (out.length > 5 * BLOCK) taken = Math.max(taken, source.frames - before);
        out.push(...block.left.f32.subarray(0, n));
        while (advances && !producer.advance(BLOCK, 24000));
      }
      producer.release();
      block.release();
      return { out, taken };
    };
    const [slow, ready] = [lap(false), lap(true)];
    expect(most(slow.out, ready.out)).toBe(0);
    expect(slow.taken).toBeGreaterThan(20 * BLOCK);
    expect(ready.taken).toBeLessThanOrEqual(2 * BLOCK);
  });
});
