// The first reflections of a room, before its lines sound: single taps on each side, of what the diffusion has made of the sound.
import { BLOCK } from "../audio/block";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";

/** Reflections on each side. */
const TAPS = 9;
/** From the first to the last, as shares of the room's shortest line. */
const FIRST = 0.2;
const LAST = 1.9;

interface Tap {
  readonly frames: number;
  readonly gain: number;
}

/** Where reflections lie and how loud they are: in growing steps, each moved a little; of one energy together. */
function tapsOf(side: number, shortestFrames: number, decayFrames: number, energy: number): readonly Tap[] {
  const golden = (Math.sqrt(5) - 1) / 2;
  const taps = Array.from({ length: TAPS }, (_, i) => {
    const moved = ((i + 1) * golden + side * 0.5) % 1;
    const share = FIRST + (LAST - FIRST) * ((i + moved) / TAPS) ** 1.2;
    const frames = Math.max(1, Math.round(share * shortestFrames));
    // Farther reflections have gone a longer way, and lost to the walls what the room's decay says.
    const level = (FIRST / share) * kernels.exp((-3 * Math.LN10 * frames) / decayFrames);
    return { frames, gain: ((i + side) % 2 === 0 ? 1 : -1) * Math.sqrt(level) };
  });
  const sum = taps.reduce((all, { gain }) => all + gain * gain, 0);
  return taps.map(({ frames, gain }) => ({ frames, gain: gain * Math.sqrt(energy / sum) }));
}

export class EarlyReflections {
  readonly #taps: readonly (readonly Tap[])[];
  readonly #reach: number;
  /** Of each side: what was heard last, and room for a block. */
  readonly #heard: readonly Buffer[];

  /**
   * @param shortestFrames the room's shortest line
   * @param decayFrames frames in which the room's sound falls by 60 dB
   * @param energy of the answer to an impulse, on each side
   */
  constructor(shortestFrames: number, decayFrames: number, energy: number) {
    this.#taps = [0, 1].map((side) => tapsOf(side, shortestFrames, decayFrames, energy));
    this.#reach = Math.max(...this.#taps.flat().map(({ frames }) => frames));
    this.#heard = [0, 1].map(() => new Buffer((this.#reach + BLOCK) * 4));
  }

  /** Hears n ≤ BLOCK frames of both sides. */
  hear(l: number, r: number, n: number): void {
    kernels.copy(this.#heard[0].ptr + this.#reach * 4, l, n);
    kernels.copy(this.#heard[1].ptr + this.#reach * 4, r, n);
  }

  /** Adds the reflections of what was heard last to both sides. */
  add(l: number, r: number, n: number): void {
    this.#addSide(0, l, n);
    this.#addSide(1, r, n);
  }

  #addSide(side: number, address: number, n: number): void {
    const heard = this.#heard[side];
    for (const { frames, gain } of this.#taps[side])
      kernels.addScaled(address, heard.ptr + (this.#reach - frames) * 4, n, gain);
    heard.f32.copyWithin(0, n, n + this.#reach);
  }

  release(): void {
    for (const buffer of this.#heard) buffer.release();
  }
}
