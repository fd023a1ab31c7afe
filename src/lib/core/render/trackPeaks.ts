import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import { gainToDb } from "../units/decibels";

/**
 * Sample peaks of what each track gives to the mix, since they were taken last. A track adds to what is there: its own part is what the sum
 * became more by, so that metering changes no sample of it.
 */
export class TrackPeaks {
  readonly #before = new StereoBlock(BLOCK);
  #peaks = new Map<string, number>();

  /** Notes the sum before a track is added to it. */
  before(l: number, r: number, n: number): void {
    kernels.copy(this.#before.left.ptr, l, n);
    kernels.copy(this.#before.right.ptr, r, n);
  }

  /** Measures what a track has added since `before`. */
  after(track: string, l: number, r: number, n: number): void {
    const left = kernels.peakOfDifference(l, this.#before.left.ptr, n);
    const right = kernels.peakOfDifference(r, this.#before.right.ptr, n);
    this.#peaks.set(track, Math.max(this.#peaks.get(track) ?? 0, left, right));
  }

  /** The peaks by track in dBFS, -Infinity where nothing sounded; they begin anew. */
  take(): Record<string, number> {
    const taken = this.#peaks;
    this.#peaks = new Map();
    return Object.fromEntries([...taken].map(([track, peak]) => [track, gainToDb(peak)]));
  }

  release(): void {
    this.#before.release();
  }
}
