import { describe, expect, it } from "vitest";
import { Plan } from "../../src/lib/core/render/graph";
import { Producer } from "../../src/lib/playback/producer";
import { Ring, RING_FRAMES, ringMemory, State } from "../../src/lib/playback/ring";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { ArraySource, clipOf, documentWith, noise, RATE } from "../core/signals";

describe("ring", () => {
  it("hands frames over in order, around its end, also past 2^31 frames", () => {
    const memory = ringMemory();
    const [writer, reader] = [new Ring(memory), new Ring(memory)];
    // Near the largest count that fits.
    new Int32Array(memory.control).fill(0x7fffff00, 0, 2);
    const x = noise(20000, 1, 1);
    const y = noise(20000, 1, 2);
    const got: [number[], number[]] = [[], []];
    const [l, r] = [new Float32Array(300), new Float32Array(300)];
    for (let at = 0; at < x.length; at += 500) {
      writer.write(x.subarray(at, at + 500), y.subarray(at, at + 500), 500);
      expect(writer.filled).toBe(500);
      for (const want of [300, 300]) {
        const n = reader.take(l, r, want);
        got[0].push(...l.subarray(0, n));
        got[1].push(...r.subarray(0, n));
      }
    }
    expect(Float32Array.from(got[0])).toEqual(x);
    expect(Float32Array.from(got[1])).toEqual(y);
    expect(reader.filled).toBe(0);
  });

  it("gives no more than it has, leaves the rest untouched, and forgets what is thrown away", () => {
    const ring = new Ring(ringMemory());
    ring.write(new Float32Array(10).fill(1), new Float32Array(10).fill(1), 10);
    const l = new Float32Array(20).fill(9);
    expect(ring.take(l, l.slice(), 20)).toBe(10);
    expect([l[9], l[10]]).toEqual([1, 9]);
    ring.write(new Float32Array(100), new Float32Array(100), 100);
    ring.discard();
    expect(ring.filled).toBe(0);
    ring.state = State.playing;
    expect(ring.state).toBe(1);
    expect(RING_FRAMES & (RING_FRAMES - 1)).toBe(0);
  });
});

describe("producer", () => {
  const sound = noise(RATE, 0.4, 3);
  const source = new ArraySource({ a: [sound, sound] });
  const plan = new Plan(documentWith(clipOf("a", RATE)));
  const block = new StereoBlock();
  const play = (producer: Producer, frames: number) => {
    const out: number[] = [];
    while (out.length < frames && !producer.ended) {
      const n = producer.next(block.left.ptr, block.right.ptr, 512);
      out.push(...block.left.f32.subarray(0, n));
    }
    return out;
  };

  it("goes round a loop without a frame too many or too few", () => {
    const producer = new Producer(plan, source, 1000, { from: 1000, to: 4001 });
    const out = play(producer, 9003);
    for (let i = 0; i < 9003; i++) expect(out[i]).toBe(sound[1000 + (i % 3001)]);
    producer.release();
  });

  it("plays on when it starts behind the loop, and ends with the last clip", () => {
    const producer = new Producer(plan, source, RATE - 2000, { from: 0, to: 1000 });
    expect(play(producer, RATE).length).toBeGreaterThanOrEqual(2000);
    expect(producer.ended).toBe(true);
    producer.release();
  });

  it("names the frames that it will need, those after the loop's turn too", () => {
    const producer = new Producer(plan, source, 3800, { from: 1000, to: 4000 });
    const needed = producer.needed(1000);
    expect(needed.some((n) => n.from <= 1000 && n.to > 1000)).toBe(true);
    expect(needed.some((n) => n.from <= 3800 && n.to >= 4000)).toBe(true);
    producer.release();
  });
});
