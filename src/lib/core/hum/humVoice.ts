// Sounds the hum that was found, sample by sample. Between two nodes each period is read from two tables, one for either node's amplitudes.
import { Fft } from "../audio/fft";
import { Buffer } from "../kernels/memory";
import type { HumTrack } from "./humTrack";

/** Points of a table of one period: a cubic through four of them errs by less than -90 dB at the sixtieth line. */
const SIZE = 2048;
/** Beyond its first and last node hum goes on as it was and fades within so long. */
const BEYOND_SECONDS = 2;

interface Table {
  node: number;
  readonly left: Float32Array;
  readonly right: Float32Array;
}

const emptyTable = (): Table => ({
  node: -1,
  left: new Float32Array(SIZE + 3),
  right: new Float32Array(SIZE + 3)
});

/** Value at a share of a period: cubic (Lagrange) through four points; table[i + 1] is point i. */
function read(table: Float32Array, share: number): number {
  const x = share * SIZE;
  const i = Math.floor(x);
  const t = x - i;
  const [a, b, c, d] = [table[i], table[i + 1], table[i + 2], table[i + 3]];
  return b + t * (c - a / 3 - b / 2 - d / 6 + t * ((a + c) / 2 - b + t * ((b - c) / 2 + (d - a) / 6)));
}

/** One track. */
export class HumVoice {
  readonly #fft = new Fft(SIZE);
  readonly #work = new Buffer(SIZE * 8);
  readonly #tables = [emptyTable(), emptyTable()];
  readonly #beyond: number;
  /** Whether all amplitudes of a node are zero. */
  readonly #silent: Uint8Array;
  #segment = 0;

  constructor(
    private readonly track: HumTrack,
    sampleRate: number
  ) {
    this.#beyond = BEYOND_SECONDS * sampleRate;
    const width = track.numbers.length * 2;
    this.#silent = Uint8Array.from(track.frames, (_, n) =>
      Number(track.channels.every((a) => a.subarray(n * width, (n + 1) * width).every((x) => x === 0)))
    );
  }

  /** The table of a node; `keep` is the one that is still needed. */
  #table(node: number, keep: number): Table {
    const there = this.#tables.find((t) => t.node === node);
    if (there) return there;
    const table = this.#tables.find((t) => t.node !== keep) ?? this.#tables[0];
    const { numbers, channels } = this.track;
    const z = this.#work.f32;
    z.fill(0);
    const [left, right = left] = channels;
    numbers.forEach((k, index) => {
      const at = (node * numbers.length + index) * 2;
      const [lr, li, rr, ri] = [left[at], left[at + 1], right[at], right[at + 1]];
      // Left as the real part and right as the imaginary part of one transform.
      z[k] = (lr - ri) / 2;
      z[SIZE + k] = (li + rr) / 2;
      z[SIZE - k] = (lr + ri) / 2;
      z[2 * SIZE - k] = (rr - li) / 2;
    });
    const re = this.#work.ptr;
    const im = re + SIZE * 4;
    // Exchanged on the way in and out: the inverse transform.
    this.#fft.forward(im, re);
    const out = this.#work.f32;
    for (let i = 0; i < SIZE + 3; i++) {
      const at = (i + SIZE - 1) % SIZE;
      table.left[i] = out[at];
      table.right[i] = out[SIZE + at];
    }
    table.node = node;
    return table;
  }

  /** Finds the last node at or before a frame, or -1. */
  #nodeAt(frame: number): number {
    const { frames } = this.track;
    let i = this.#segment;
    while (i + 1 < frames.length && frames[i + 1] <= frame) i++;
    while (i >= 0 && frames[i] > frame) i--;
    this.#segment = Math.max(0, i);
    return i;
  }

  /** Adds the hum of n frames from `from` on. Returns whether there is any. */
  add(from: number, n: number, left: Float32Array, right: Float32Array): boolean {
    const { frames, periods, pace } = this.track;
    const last = frames.length - 1;
    let any = false;
    for (let i = 0; i < n;) {
      const frame = from + i;
      const node = this.#nodeAt(frame);
      if (node < 0 || node === last) {
        const edge = Math.max(0, node);
        const end = node < 0 ? Math.min(n, Math.ceil(frames[0] - from)) : n;
        const away = (at: number) => Math.abs(at - frames[edge]);
        if (!this.#silent[edge] && Math.min(away(frame), away(from + end - 1)) < this.#beyond) {
          const table = this.#table(edge, edge);
          for (let k = i; k < end; k++) {
            const share = 1 - away(from + k) / this.#beyond;
            if (share <= 0) continue;
            const phase = periods[edge] + (from + k - frames[edge]) * pace[edge];
            const at = phase - Math.floor(phase);
            left[k] += share * read(table.left, at);
            right[k] += share * read(table.right, at);
            any = true;
          }
        }
        i = end;
        continue;
      }
      const end = Math.min(n, Math.ceil(frames[node + 1] - from));
      if (!(this.#silent[node] && this.#silent[node + 1])) {
        this.#between(node, from, i, end, left, right);
        any = true;
      }
      i = end;
    }
    return any;
  }

  #between(
    node: number,
    from: number,
    i: number,
    end: number,
    left: Float32Array,
    right: Float32Array
  ): void {
    const { frames, periods, pace } = this.track;
    const a = this.#table(node, node + 1);
    const b = this.#table(node + 1, node);
    const length = frames[node + 1] - frames[node];
    const advance = periods[node + 1] - periods[node];
    // Cubic (Hermite) through the periods at both nodes and their pace.
    const [d0, d1] = [pace[node] * length, pace[node + 1] * length];
    const c2 = 3 * advance - 2 * d0 - d1;
    const c3 = d0 + d1 - 2 * advance;
    for (let k = i; k < end; k++) {
      const u = (from + k - frames[node]) / length;
      const passed = u * (d0 + u * (c2 + u * c3));
      const at = passed - Math.floor(passed);
      const share = passed / advance;
      const l = read(a.left, at);
      const r = read(a.right, at);
      left[k] += l + (read(b.left, at) - l) * share;
      right[k] += r + (read(b.right, at) - r) * share;
    }
  }

  release(): void {
    this.#fft.release();
    this.#work.release();
  }
}
