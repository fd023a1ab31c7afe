import { kernels } from "../../kernels/instance";
import { formatDb, powerToDb } from "../../units/decibels";
import type { Finding, Look } from "./finding";

/** A side this far under the other, or under full scale, is dead. */
const DEAD_APART_DB = 40;
const DEAD_DB = -80;
const INVERTED = -0.9;
const CANCELS_DB = 9;
/** A mean is an offset from here on, no further under the sound, alike in three thirds of it. */
const OFFSET = 0.003;
const OFFSET_UNDER_DB = 40;
const OFFSET_ALIKE = 0.5;
const OFFSET_SECONDS = 3;
const LEAST_POWER = 1e-12;

/** What the two sides are to each other, and where their middle lies. */
export class SidesLook implements Look {
  readonly #thirds = Array.from({ length: 3 }, () => ({ left: 0, right: 0, frames: 0 }));
  #left = 0;
  #right = 0;
  #cross = 0;
  #at = 0;

  constructor(
    private readonly sampleRate: number,
    private readonly frames: number,
    private readonly channels: 1 | 2
  ) {}

  push(l: number, r: number, n: number): void {
    const [left, right] = [l, r].map((at) => new Float32Array(kernels.memory.buffer, at, n));
    for (let i = 0; i < n; i++) {
      this.#left += left[i] * left[i];
      this.#right += right[i] * right[i];
      this.#cross += left[i] * right[i];
    }
    const third = this.#thirds[Math.min(2, Math.floor((3 * this.#at) / this.frames))];
    third.left += kernels.sum(l, n);
    third.right += kernels.sum(r, n);
    third.frames += n;
    this.#at += n;
  }

  finish(): Finding[] {
    return [...this.#offsets(), ...(this.channels === 2 ? this.#between() : [])];
  }

  #offsets(): Finding[] {
    if (this.#at < OFFSET_SECONDS * this.sampleRate) return [];
    const rms = Math.sqrt(Math.max(this.#left, this.#right) / this.#at);
    for (const side of ["left", "right"] as const) {
      const means = this.#thirds.map((third) => third[side] / Math.max(1, third.frames));
      const mean = means.reduce((a, b) => a + b, 0) / 3;
      const alike = means.every((m) => Math.abs(m - mean) < OFFSET_ALIKE * Math.abs(mean));
      if (Math.abs(mean) <= OFFSET || 20 * Math.log10(Math.abs(mean) / rms) < -OFFSET_UNDER_DB || !alike)
        continue;
      return [
        {
          kind: "offset",
          certainty: "sure",
          value: mean,
          unit: "of full scale",
          text: `A constant offset of ${mean.toFixed(4)} of full scale.`,
          places: [],
          step: { effect: "dc-removal", params: { method: "mean" } }
        }
      ];
    }
    return [];
  }

  #between(): Finding[] {
    const [left, right] = [this.#left, this.#right].map((sum) => sum / Math.max(1, this.#at));
    const [l, r] = [left, right].map((p) => powerToDb(p + 1e-20));
    if (Math.max(l, r) < DEAD_DB) return [];
    if (Math.abs(l - r) > DEAD_APART_DB || Math.min(l, r) < DEAD_DB) {
      const dead = l < r ? "left" : "right";
      return [
        {
          kind: "dead-side",
          certainty: "sure",
          value: Math.min(l, r),
          unit: "dBFS",
          text: `The ${dead} side is dead: ${formatDb(Math.min(l, r), 0)} dBFS beside ${formatDb(Math.max(l, r), 0)}.`,
          places: [],
          step: { effect: "channels", params: { mode: dead === "left" ? "right" : "left" } }
        }
      ];
    }
    const correlation = this.#cross / Math.sqrt(this.#left * this.#right + LEAST_POWER);
    const sum = powerToDb((this.#left + this.#right + 2 * this.#cross) / 4 / Math.max(1, this.#at) + 1e-20);
    const lost = powerToDb((left + right) / 2) - sum;
    if (correlation < INVERTED)
      return [
        {
          kind: "inverted",
          certainty: "sure",
          value: correlation,
          unit: "correlation",
          text: `One side is upside down: correlation ${correlation.toFixed(2)}. In mono ${formatDb(lost, 0)} dB are lost.`,
          places: [],
          step: { effect: "polarity", params: { left: false, right: true } }
        }
      ];
    if (lost <= CANCELS_DB) return [];
    return [
      {
        kind: "cancels",
        certainty: "sure",
        value: lost,
        unit: "dB",
        text: `The sides cancel in mono: ${formatDb(lost, 0)} dB are lost.`,
        places: []
      }
    ];
  }

  release(): void {
    // It holds no memory.
  }
}
