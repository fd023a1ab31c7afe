import { kernels } from "../kernels/instance";

/** Gains to left and right that move to their targets. */
export class Gains {
  #toLeft: number;
  #toRight: number;
  #ramp = 0;

  constructor(
    private left: number,
    private right: number
  ) {
    this.#toLeft = left;
    this.#toRight = right;
  }

  /** Whether nothing is heard, nor will be. */
  get silent(): boolean {
    return this.#ramp === 0 && this.left === 0 && this.right === 0;
  }

  /** Whether they are 1 and stay so. */
  get unity(): boolean {
    return this.#ramp === 0 && this.left === 1 && this.right === 1;
  }

  /** Sets them at once. */
  set(left: number, right: number): void {
    this.left = this.#toLeft = left;
    this.right = this.#toRight = right;
    this.#ramp = 0;
  }

  /** Moves them there within some frames. */
  moveTo(left: number, right: number, frames: number): void {
    if (this.#toLeft === left && this.#toRight === right) return;
    if (frames === 0) {
      this.set(left, right);
      return;
    }
    this.#toLeft = left;
    this.#toRight = right;
    this.#ramp = frames;
  }

  /** Adds n frames at `a`, `b` times the gains to those at `l`, `r`. */
  add(l: number, r: number, a: number, b: number, n: number): void {
    const m = Math.min(n, this.#ramp);
    if (m > 0) {
      const stepL = (this.#toLeft - this.left) / this.#ramp;
      const stepR = (this.#toRight - this.right) / this.#ramp;
      kernels.addRamped(l, a, m, this.left, stepL);
      kernels.addRamped(r, b, m, this.right, stepR);
      this.#ramp -= m;
      this.left = this.#ramp === 0 ? this.#toLeft : this.left + stepL * m;
      this.right = this.#ramp === 0 ? this.#toRight : this.right + stepR * m;
    }
    if (m === n || this.silent) return;
    kernels.addScaled(l + m * 4, a + m * 4, n - m, this.left);
    kernels.addScaled(r + m * 4, b + m * 4, n - m, this.right);
  }
}
