// The pages' source of samples, with a server that is made up.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { CHUNK_FRAMES } from "../../src/lib/core/render/chunkCache";
import { MemorySpool } from "../../src/lib/core/audio/spool";
import { ClipStream } from "../../src/lib/core/render/clipStream";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { ChunkStore } from "../../src/lib/playback/chunkStore";
import { prePassKey } from "../../src/lib/core/render/prePass";
import { partOf } from "../../src/lib/core/render/soundPart";
import type { ResolvedClip } from "../../src/lib/core/session/lookup";
import { ArraySource, clipOf, noise, RATE } from "../core/signals";

const sound = noise(100000, 0.25, 5);
const response = Float32Array.of(0, 0.5, 0, 0.25);
const recordings: Record<string, Float32Array> = { a: sound, room: response };
let asked: string[] = [];

function answer(address: string): Response {
  const [, id, , chunk] = /recordings\/(\w+)\/chunks\/(\d+)\/(\d+)$/.exec(address) ?? [];
  asked.push(`${id}/${chunk}`);
  const x = recordings[id];
  const from = Number(chunk) * CHUNK_FRAMES;
  if (!x) return Response.json({ error: "There is no such recording." }, { status: 410 });
  if (from >= x.length) return Response.json({ error: "The recording ends before that." }, { status: 404 });
  const out = new Float32Array(2 * CHUNK_FRAMES);
  out.set(x.subarray(from, from + CHUNK_FRAMES));
  out.set(x.subarray(from, from + CHUNK_FRAMES), CHUNK_FRAMES);
  return new Response(out.buffer);
}

beforeEach(() => {
  asked = [];
  vi.stubGlobal("fetch", (address: string) => Promise.resolve(answer(address)));
});
afterEach(() => vi.unstubAllGlobals());

function played(clip: ResolvedClip, source: ConstructorParameters<typeof ClipStream>[1]): Float32Array {
  const stream = new ClipStream(clip, source, RATE);
  const block = new StereoBlock(4096);
  stream.read(block.left.ptr, block.right.ptr, 4096);
  const out = block.left.f32.slice();
  stream.release();
  block.release();
  return out;
}

describe("chunk store", () => {
  it("fetches each chunk once, also when asked twice at the same time", async () => {
    const store = new ChunkStore(RATE);
    const range = { recordingId: "a", from: 10, to: CHUNK_FRAMES + 10 };
    expect(store.hasAll([range])).toBe(false);
    await Promise.all([store.ensure([range]), store.ensure([range])]);
    expect(asked.sort()).toEqual(["a/0", "a/1"]);
    expect(store.hasAll([range])).toBe(true);
    await expect(store.ensure([{ recordingId: "gone", from: 0, to: 1 }])).rejects.toThrow(
      "There is no such recording."
    );
    store.release();
  });

  it("prepares a clip whose step learns: it then sounds as it does where all is at hand", async () => {
    const store = new ChunkStore(RATE);
    const clip = clipOf("a", 90000, {
      steps: [
        { id: "n", effect: "normalize", on: true, params: { target: "peak", levelDb: -2 } },
        { id: "r", effect: "reverse", on: true, params: {} }
      ]
    });
    expect(store.prepared([partOf(clip)])).toBe(false);
    const shares: number[] = [];
    expect(
      await store.prepare(
        [partOf(clip)],
        () => true,
        (share) => shares.push(share)
      )
    ).toBe(true);
    expect(store.prepared([partOf(clip)])).toBe(true);
    expect(shares.at(-1)).toBe(1);
    await store.ensure([{ recordingId: "a", from: 0, to: 90000 }]);
    expect(played(clip, store)).toEqual(played(clip, new ArraySource({ a: [sound, sound] })));
    store.release();
  });

  it("stops learning when it is no longer wanted", async () => {
    const store = new ChunkStore(RATE);
    const steps = [{ id: "n", effect: "normalize", on: true, params: {} }];
    let calls = 0;
    expect(await store.prepare([partOf(clipOf("a", 90000, { steps }))], () => ++calls < 2)).toBe(false);
    expect(store.prepared([partOf(clipOf("a", 90000, { steps }))])).toBe(false);
    store.release();
  });

  it("has what it needs learnt elsewhere, and fetches nothing for it; what keeps sound it hears itself", async () => {
    const steps = [{ id: "n", effect: "normalize", on: true, params: {} }];
    const heard: string[] = [];
    const store = new ChunkStore(RATE, (part, wanted, report) => {
      heard.push(part.recordingId);
      report(0.5);
      const sound = part.steps.some(({ effect }) => effect === "reverse");
      return Promise.resolve(wanted() ? { learnt: [sound ? null : { gainDb: -3 }], sound } : undefined);
    });
    const long = partOf(clipOf("a", 61 * RATE, { recordingFrames: 61 * RATE, steps }));
    const shares: number[] = [];
    expect(
      await store.prepare(
        [long],
        () => true,
        (share) => shares.push(share)
      )
    ).toBe(true);
    expect([heard, shares, asked]).toEqual([["a"], [0.5], []]);
    expect(store.prepared([long])).toBe(true);
    expect(store.learnt.get(prePassKey(long, RATE) ?? "")?.[0]?.values).toEqual({ gainDb: -3 });
    const unwanted = partOf(clipOf("a", 62 * RATE, { recordingFrames: 62 * RATE, steps }));
    expect(await store.prepare([unwanted], () => false)).toBe(false);
    const backwards = [{ id: "r", effect: "reverse", on: true, params: {} }];
    expect(await store.prepare([partOf(clipOf("a", 20000, { steps: backwards }))], () => true)).toBe(true);
    expect(heard).toHaveLength(3);
    expect(asked.length).toBeGreaterThan(0);
    store.release();
  });

  it("loads an impulse response as a whole, without the silence that fills its chunk", async () => {
    const store = new ChunkStore(RATE);
    const steps = [{ id: "c", effect: "convolution", on: true, params: { impulse: "room" } }];
    await store.prepare([partOf(clipOf("a", 1000, { steps }))], () => true);
    expect(store.sound("room")?.left).toEqual(response);
    expect(store.sound("nothing")).toBeUndefined();
    const off = steps.map((s) => ({ ...s, on: false, params: { impulse: "missing" } }));
    expect(store.prepared([partOf(clipOf("a", 1000, { steps: off }))])).toBe(true);
    store.release();
  });

  it("gives back what was learnt by steps when it is given up in the middle", async () => {
    const store = new ChunkStore(RATE);
    const steps = [
      { id: "r", effect: "reverse", on: true, params: {} },
      { id: "n", effect: "normalize", on: true, params: {} }
    ];
    const clip = clipOf("a", 90000, { steps });
    // The first step has kept its sound when the second one is given up.
    const made: MemorySpool[] = [];
    const release = vi.spyOn(MemorySpool.prototype, "release").mockImplementation(function (
      this: MemorySpool
    ) {
      made.push(this);
    });
    let shares = 0;
    await store
      .prepare(
        [partOf(clip)],
        () => true,
        () => {
          if (++shares > 7) throw new Error("The line was cut.");
        }
      )
      .catch(() => undefined);
    expect(made.length).toBeGreaterThan(0);
    release.mockRestore();
    expect(store.prepared([partOf(clip)])).toBe(false);
    expect(await store.prepare([partOf(clip)], () => true)).toBe(true);
    store.release();
  });
});
