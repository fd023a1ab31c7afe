// What a de-clipping has found: runs of samples, and by how much each lies beyond what is left of it. As text it travels from whoever listened to
// whoever renders.
import { packed, unpacked } from "../units/packed";

/** So far over what is left of it a sample can go: fourfold, 12 dB; in as many steps. */
const MOST_OVER = 3;
const STEPS = 65535;

/** Clipped samples of one channel. */
export interface ClippedRuns {
  /** For each run its first frame and its length. */
  readonly runs: Uint32Array;
  /** For each sample of all runs, in order, the step by which it is raised. */
  readonly steps: Uint16Array;
}

/** The step that raises a sample most nearly to a value, never below itself. */
export function stepFor(sample: number, restored: number): number {
  const over = Math.max(0, Math.min(MOST_OVER, restored / sample - 1));
  return Math.round((over / MOST_OVER) * STEPS);
}

/** Factor of a step, at least 1. */
export function factorOf(step: number): number {
  return 1 + (step * MOST_OVER) / STEPS;
}

/** Collects the clipped samples of one channel in order. */
export class RunsBuilder {
  readonly #runs: number[] = [];
  #steps = new Uint16Array(1024);
  #count = 0;

  add(frame: number, step: number): void {
    const last = this.#runs.length - 2;
    if (last >= 0 && this.#runs[last] + this.#runs[last + 1] === frame) this.#runs[last + 1]++;
    else this.#runs.push(frame, 1);
    if (this.#count === this.#steps.length) {
      const more = new Uint16Array(2 * this.#count);
      more.set(this.#steps);
      this.#steps = more;
    }
    this.#steps[this.#count++] = step;
  }

  get count(): number {
    return this.#count;
  }

  finish(): ClippedRuns {
    return { runs: Uint32Array.from(this.#runs), steps: this.#steps.slice(0, this.#count) };
  }
}

export function runsToText(channels: readonly ClippedRuns[]): string {
  return JSON.stringify(channels.map(({ runs, steps }) => [packed(runs), packed(steps)]));
}

/** What `runsToText` wrote. */
export function runsFromText(text: string): ClippedRuns[] {
  return (JSON.parse(text) as [string, string][]).map(([runs, steps]) => ({
    runs: new Uint32Array(unpacked(runs)),
    steps: new Uint16Array(unpacked(steps))
  }));
}
