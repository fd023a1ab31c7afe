// What lies between the mix and the ears: a level of its own, and the ear guard. It never touches a render.
import { kernels } from "../kernels/instance";
import { EarGuard } from "./earGuard";

/** How one listens. */
export interface MonitorSetting {
  readonly gainDb: number;
  /** How far a switch may raise the level at once, LU; null: the guard is off. */
  readonly guardLu: number | null;
}

export class Monitor {
  readonly #guard: EarGuard;
  #gain = 1;
  #wanted = 1;

  constructor(sampleRate: number) {
    this.#guard = new EarGuard(sampleRate);
  }

  set(setting: MonitorSetting): void {
    this.#wanted = 10 ** (setting.gainDb / 20);
    this.#guard.stepLu = setting.guardLu ?? Infinity;
  }

  /** What comes from now on may be another sound. */
  changed(): void {
    this.#guard.changed();
  }

  /** How far the guard turns down now, in dB. */
  get easedDb(): number {
    return this.#guard.easedDb;
  }

  /** n frames in place; a new level is reached within a block. */
  process(l: number, r: number, n: number): void {
    this.#guard.process(l, r, n);
    if (this.#gain === 1 && this.#wanted === 1) return;
    for (const p of [l, r]) {
      const view = new Float32Array(kernels.memory.buffer, p, n);
      for (let i = 0; i < n; i++) view[i] *= this.#gain + ((this.#wanted - this.#gain) * (i + 1)) / n;
    }
    this.#gain = this.#wanted;
  }

  release(): void {
    this.#guard.release();
  }
}
