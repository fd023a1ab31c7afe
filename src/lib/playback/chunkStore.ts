// Recordings' samples in the browser: fetched in chunks, kept in the core's memory.
import { CHUNK_FRAMES, ChunkCache } from "$lib/core/render/chunkCache";
import type { FrameRange } from "$lib/core/render/clipStream";
import type { Source } from "$lib/core/render/source";

/** 128 MB of samples. */
const CAPACITY = 512;

export class ChunkStore implements Source {
  readonly #cache = new ChunkCache(CAPACITY);
  readonly #coming = new Map<string, Promise<void>>();

  constructor(private readonly sampleRate: number) {}

  read(recordingId: string, from: number, frames: number, left: number, right: number): void {
    this.#cache.read(recordingId, from, frames, left, right);
  }

  #missing(ranges: readonly FrameRange[]): [id: string, chunk: number][] {
    const out: [string, number][] = [];
    for (const { recordingId, from, to } of ranges)
      for (let chunk = Math.max(0, Math.floor(from / CHUNK_FRAMES)); chunk * CHUNK_FRAMES < to; chunk++)
        if (!this.#cache.has(recordingId, chunk)) out.push([recordingId, chunk]);
    return out;
  }

  hasAll(ranges: readonly FrameRange[]): boolean {
    return this.#missing(ranges).length === 0;
  }

  /** Fetches what is missing. @throws when the server cannot give it */
  async ensure(ranges: readonly FrameRange[]): Promise<void> {
    await Promise.all(this.#missing(ranges).map(([id, chunk]) => this.#fetch(id, chunk)));
  }

  #fetch(id: string, chunk: number): Promise<void> {
    const key = `${id}/${chunk}`;
    let coming = this.#coming.get(key);
    if (!coming) {
      coming = this.#load(id, chunk).finally(() => this.#coming.delete(key));
      this.#coming.set(key, coming);
    }
    return coming;
  }

  async #load(id: string, chunk: number): Promise<void> {
    const answer = await fetch(`/api/recordings/${id}/chunks/${this.sampleRate}/${chunk}`);
    // Beyond the recording's end there is silence.
    const samples = answer.status === 404 ? new Float32Array(2 * CHUNK_FRAMES) : await samplesOf(answer);
    const block = this.#cache.put(id, chunk);
    block.left.f32.set(samples.subarray(0, CHUNK_FRAMES));
    block.right.f32.set(samples.subarray(CHUNK_FRAMES));
  }
}

async function samplesOf(answer: Response): Promise<Float32Array> {
  if (!answer.ok) {
    const { error } = (await answer.json()) as { error: string };
    throw new Error(error);
  }
  return new Float32Array(await answer.arrayBuffer());
}
