// The kernels' memory: what is given back can be used again in pieces of any size, and playing for hours takes no more of it.
import { describe, expect, it } from "vitest";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { kernels } from "../../src/lib/core/kernels/instance";
import { Buffer, memoryInUse } from "../../src/lib/core/kernels/memory";
import { applyCommand } from "../../src/lib/core/session/commands";
import { newStep } from "../../src/lib/core/session/make";
import { MIX } from "../../src/lib/core/session/owners";
import { Plan } from "../../src/lib/core/render/graph";
import { Producer } from "../../src/lib/playback/producer";
import { randomOf } from "../support/randomCommands";
import { ArraySource, clipOf, documentWith, noise, RATE, step } from "./signals";

describe("the kernels' memory", () => {
  it("gives zeroed pieces that do not overlap, whatever is reserved and given back before", () => {
    const random = randomOf(3);
    const held: Buffer[] = [];
    for (let i = 0; i < 4000; i++) {
      if (held.length > 0 && random() < 0.5) {
        const [gone] = held.splice(Math.floor(random() * held.length), 1);
        gone?.release();
        continue;
      }
      const piece = new Buffer(1 + Math.floor(random() ** 4 * 200000));
      expect(piece.ptr % 64).toBe(0);
      expect(piece.u8.every((x) => x === 0)).toBe(true);
      piece.u8.fill(0xff);
      held.push(piece);
    }
    const sorted = [...held].sort((a, b) => a.ptr - b.ptr);
    // Kernels may write up to three samples beyond a block.
    sorted.forEach((piece, i) => {
      const next = sorted[i + 1];
      if (next) expect(piece.ptr + piece.bytes + 12).toBeLessThanOrEqual(next.ptr);
    });
    for (const piece of held) piece.release();
  });

  it("joins neighbours: what was used in small pieces serves for a large one", () => {
    const before = memoryInUse();
    const small = Array.from({ length: 1000 }, () => new Buffer(4000));
    const { top } = memoryInUse();
    for (const piece of small) piece.release();
    const large = new Buffer(3000000);
    expect(memoryInUse().top).toBeLessThanOrEqual(top);
    large.release();
    large.release();
    expect(memoryInUse()).toEqual(before);
  });

  it("says so when there is no more, and has taken nothing", () => {
    const before = memoryInUse();
    expect(() => new Buffer(2 ** 33)).toThrow();
    expect(memoryInUse()).toEqual(before);
  });
});

it("eight hours of a short loop, with clips that come and go and chains on clip, track and mix, take no more memory", () => {
  const sound = noise(3 * RATE, 0.3, 1);
  const source = new ArraySource({ a: [sound, sound], b: [sound, sound] });
  const gain = (id: string) => ({ id, ...step("gain", { gainDb: -1 }) });
  const clips = documentWith(
    clipOf("a", 200, { steps: [gain("g")] }),
    clipOf("b", 300, { start: 700, steps: [gain("h"), { id: "d", ...step("delay", { timeMs: 2 }) }] })
  );
  const track = { table: "tracks" as const, id: "track-1" };
  const doc = [track, MIX].reduce(
    (d, owner) =>
      applyCommand(d, {
        type: "step.add",
        owner,
        chainId: `chain-${owner.id}`,
        step: newStep(`step-${owner.id}`, "gain", { gainDb: -1 }),
        before: null
      }).document,
    clips
  );
  const loop = { from: 0, to: 2 * RATE };
  const plan = new Plan(doc);
  const producer = new Producer(plan, source, 0, loop);
  const block = new StereoBlock(BLOCK);
  const play = (frames: number) => {
    for (let done = 0; done < frames;) done += producer.next(block.left.ptr, block.right.ptr, BLOCK);
  };
  play(20 * loop.to);
  const bytes = kernels.memory.buffer.byteLength;
  const used = memoryInUse();
  play(8 * 3600 * RATE);
  expect(kernels.memory.buffer.byteLength).toBe(bytes);
  const now = memoryInUse();
  expect(now.top - now.free).toBe(used.top - used.free);
  expect(now.top).toBeLessThanOrEqual(used.top + 65536);
  producer.release();
  block.release();
}, 300000);
