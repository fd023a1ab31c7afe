import { StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import type { Source } from "./source";

/** Frames of a chunk. Recordings are read, sent and kept in chunks of this many stereo frames. */
export const CHUNK_FRAMES = 32768;

/** Brings a chunk to two f32 blocks at once, zero beyond the recording's end. @throws when it cannot. */
export type ChunkLoader = (recordingId: string, chunk: number, left: number, right: number) => void;

interface Entry {
  readonly block: StereoBlock;
  /** When it was last read, by the cache's own count. */
  used: number;
}

/** Recordings' samples in the kernels' memory: the least recently used chunks go first. Reading allocates nothing. */
export class ChunkCache implements Source {
  readonly #recordings = new Map<string, Map<number, Entry>>();
  #count = 0;
  #clock = 0;
  #spare: StereoBlock | undefined;

  /**
   * @param capacity chunks kept (256 KB each)
   * @param load brings a missing chunk during `read`; without it, reading a missing chunk throws
   */
  constructor(
    private readonly capacity: number,
    private readonly load?: ChunkLoader
  ) {}

  has(recordingId: string, chunk: number): boolean {
    return this.#recordings.get(recordingId)?.has(chunk) ?? false;
  }

  /** Memory for a chunk that the caller fills at once. */
  put(recordingId: string, chunk: number): StereoBlock {
    const known = this.#recordings.get(recordingId)?.get(chunk);
    if (known) return known.block;
    const block = this.#room();
    this.#keep(recordingId, chunk, block);
    return block;
  }

  #keep(recordingId: string, chunk: number, block: StereoBlock): void {
    let chunks = this.#recordings.get(recordingId);
    if (!chunks) this.#recordings.set(recordingId, (chunks = new Map()));
    chunks.set(chunk, { block, used: ++this.#clock });
    this.#count++;
  }

  #room(): StereoBlock {
    const spare = this.#spare;
    this.#spare = undefined;
    if (spare) return spare;
    return this.#count < this.capacity ? new StereoBlock(CHUNK_FRAMES) : this.#dropOldest();
  }

  #dropOldest(): StereoBlock {
    let oldest: { chunks: Map<number, Entry>; chunk: number; entry: Entry } | undefined;
    for (const chunks of this.#recordings.values())
      for (const [chunk, entry] of chunks)
        if (!oldest || entry.used < oldest.entry.used) oldest = { chunks, chunk, entry };
    if (!oldest) throw new Error("The cache has room for no chunk at all.");
    oldest.chunks.delete(oldest.chunk);
    this.#count--;
    return oldest.entry.block;
  }

  #get(recordingId: string, chunk: number): StereoBlock {
    const found = this.#recordings.get(recordingId)?.get(chunk);
    if (found) {
      found.used = ++this.#clock;
      return found.block;
    }
    if (!this.load) throw new Error(`Chunk ${chunk} of recording ${recordingId} is not at hand.`);
    const block = this.#room();
    try {
      this.load(recordingId, chunk, block.left.ptr, block.right.ptr);
    } catch (error) {
      this.#spare = block;
      throw error;
    }
    this.#keep(recordingId, chunk, block);
    return block;
  }

  read(recordingId: string, from: number, frames: number, left: number, right: number): void {
    let at = from;
    const end = from + frames;
    let offset = 0;
    if (at < 0) {
      const silent = Math.min(frames, -at);
      kernels.clear(left, silent);
      kernels.clear(right, silent);
      at += silent;
      offset += silent * 4;
    }
    while (at < end) {
      const chunk = Math.floor(at / CHUNK_FRAMES);
      const inside = at - chunk * CHUNK_FRAMES;
      const n = Math.min(end - at, CHUNK_FRAMES - inside);
      const block = this.#get(recordingId, chunk);
      kernels.copy(left + offset, block.left.ptr + inside * 4, n);
      kernels.copy(right + offset, block.right.ptr + inside * 4, n);
      at += n;
      offset += n * 4;
    }
  }

  release(): void {
    for (const chunks of this.#recordings.values()) for (const { block } of chunks.values()) block.release();
    this.#recordings.clear();
    this.#count = 0;
    this.#spare?.release();
  }
}
