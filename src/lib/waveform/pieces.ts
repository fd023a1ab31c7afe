// Pieces of overviews and samples as the server hands them out, kept by when they were last used.
import { OVERVIEW_BINS } from "$lib/core/audio/overview";
import { CHUNK_FRAMES } from "$lib/core/render/chunkCache";

/** Bins of a piece of an overview. */
const PIECE_BINS = 4096;
const AGAIN_MS = 5000;
/** Pieces that are asked for at a time: what is looked at next must not wait behind what was looked at before. */
const MOST_COMING = 6;

type Piece = Int16Array | Float32Array;

/** Stretch of a level: bins (least, largest), or the samples of both channels. */
export interface Stretch<T extends Piece> {
  readonly data: readonly T[];
  /** Index of the first bin or frame. */
  readonly first: number;
}

/** What is missing and comes, or could not be had now. */
export type Outlook = "coming" | "failed";

export class Pieces {
  readonly #pieces = new Map<string, Piece>();
  readonly #coming = new Set<string>();
  /** What could not be had, with the time from which on it is asked for again. */
  readonly #failed = new Map<string, number>();
  #bytes = 0;

  /**
   * @param fetchBytes asks for the bytes under a path
   * @param onarrival called when something came, or could not be had
   */
  constructor(
    private readonly sampleRate: number,
    private readonly fetchBytes: (path: string) => Promise<ArrayBuffer>,
    private readonly onarrival: () => void,
    private readonly maxBytes = 48e6
  ) {}

  /** Bins [from, to) of a level, as far as the recording goes. */
  bins(id: string, frames: number, level: number, from: number, to: number): Stretch<Int16Array> | Outlook {
    const all = Math.ceil(frames / OVERVIEW_BINS[level]);
    const begin = Math.max(0, Math.min(all, from));
    const end = Math.max(begin, Math.min(all, to));
    const out = new Int16Array((end - begin) * 2);
    const outlook = this.#gather(begin, end, PIECE_BINS, (piece, inside, n, at) => {
      const query = `from=${piece * PIECE_BINS}&bins=${PIECE_BINS}`;
      const found = this.#piece(
        `/api/recordings/${id}/overview/${this.sampleRate}/${level}?${query}`,
        (bytes) => new Int16Array(bytes)
      );
      if (typeof found === "string") return found;
      out.set(found.subarray(inside * 2, (inside + n) * 2) as Int16Array, (at - begin) * 2);
      return undefined;
    });
    return outlook ?? { data: [out], first: begin };
  }

  /** Frames [from, to) of both channels, as far as the recording goes. */
  samples(id: string, frames: number, from: number, to: number): Stretch<Float32Array> | Outlook {
    const begin = Math.max(0, Math.min(frames, from));
    const end = Math.max(begin, Math.min(frames, to));
    const [left, right] = [new Float32Array(end - begin), new Float32Array(end - begin)];
    const outlook = this.#gather(begin, end, CHUNK_FRAMES, (chunk, inside, n, at) => {
      const found = this.#piece(
        `/api/recordings/${id}/chunks/${this.sampleRate}/${chunk}`,
        (bytes) => new Float32Array(bytes)
      );
      if (typeof found === "string") return found;
      // The channels lie one after the other.
      left.set(found.subarray(inside, inside + n), at - begin);
      right.set(found.subarray(CHUNK_FRAMES + inside, CHUNK_FRAMES + inside + n), at - begin);
      return undefined;
    });
    return outlook ?? { data: [left, right], first: begin };
  }

  /** Goes through the pieces that a stretch touches; says what of them is not there. All that is missing is asked for. */
  #gather(
    begin: number,
    end: number,
    size: number,
    take: (piece: number, inside: number, n: number, at: number) => Outlook | undefined
  ): Outlook | undefined {
    let outlook: Outlook | undefined;
    for (let at = begin; at < end;) {
      const piece = Math.floor(at / size);
      const n = Math.min(end, (piece + 1) * size) - at;
      const missing = take(piece, at - piece * size, n, at);
      if (missing && outlook !== "failed") outlook = missing;
      at += n;
    }
    return outlook;
  }

  #piece(path: string, make: (bytes: ArrayBuffer) => Piece): Piece | Outlook {
    const found = this.#pieces.get(path);
    if (found) {
      this.#pieces.delete(path);
      this.#pieces.set(path, found);
      return found;
    }
    if (this.#coming.has(path)) return "coming";
    if ((this.#failed.get(path) ?? 0) > performance.now()) return "failed";
    if (this.#coming.size >= MOST_COMING) return "coming";
    this.#coming.add(path);
    this.fetchBytes(path)
      .then((bytes) => {
        this.#failed.delete(path);
        this.#keep(path, make(bytes));
      })
      // Whoever looks at it again later asks again.
      .catch(() => this.#failed.set(path, performance.now() + AGAIN_MS))
      .finally(() => {
        this.#coming.delete(path);
        this.onarrival();
      });
    return "coming";
  }

  #keep(path: string, piece: Piece): void {
    this.#pieces.set(path, piece);
    this.#bytes += piece.byteLength;
    for (const [oldest, { byteLength }] of this.#pieces) {
      if (this.#bytes <= this.maxBytes || oldest === path) break;
      this.#pieces.delete(oldest);
      this.#bytes -= byteLength;
    }
  }
}
