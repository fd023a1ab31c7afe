import { StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import type { Source } from "./source";

/** Frames of a chunk. Recordings are read, sent and kept in chunks of this many stereo frames. */
export const CHUNK_FRAMES = 32768;

/** Brings a chunk to two f32 blocks at once, zero beyond the recording's end. @throws when it cannot. */
export type ChunkLoader = (recordingId: string, chunk: number, left: number, right: number) => void;

/** Recordings' samples in the kernels' memory: the least recently used chunks go first. */
export class ChunkCache implements Source {
  readonly #chunks = new Map<string, StereoBlock>();
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
    return this.#chunks.has(`${recordingId}/${chunk}`);
  }

  /** Memory for a chunk that the caller fills at once. */
  put(recordingId: string, chunk: number): StereoBlock {
    const key = `${recordingId}/${chunk}`;
    const block = this.#room();
    this.#chunks.set(key, block);
    return block;
  }

  #room(): StereoBlock {
    if (this.#spare) {
      const block = this.#spare;
      this.#spare = undefined;
      return block;
    }
    if (this.#chunks.size < this.capacity) return new StereoBlock(CHUNK_FRAMES);
    const [oldest, block] = this.#chunks.entries().next().value as [string, StereoBlock];
    this.#chunks.delete(oldest);
    return block;
  }

  #get(recordingId: string, chunk: number): StereoBlock {
    const key = `${recordingId}/${chunk}`;
    const found = this.#chunks.get(key);
    if (found) {
      this.#chunks.delete(key);
      this.#chunks.set(key, found);
      return found;
    }
    if (!this.load) throw new Error(`Chunk ${chunk} of recording ${recordingId} is not at hand.`);
    const block = this.#room();
    try {
      this.load(recordingId, chunk, block.left.ptr, block.right.ptr);
    } catch (error) {
      this.#spare = block;
      throw error;
    }
    this.#chunks.set(key, block);
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
    for (const block of this.#chunks.values()) block.release();
    this.#chunks.clear();
    this.#spare?.release();
  }
}
