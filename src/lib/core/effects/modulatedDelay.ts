// What chorus and flanger share: voices of a delay that a sine moves.
import { fractionalDelayTable, READ_MARGIN } from "../audio/fractionalDelay";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import type { Processor } from "./description";

export interface Modulation {
  /** Middle of the delay and how far it moves to both sides, in seconds; the depth is less than the delay. */
  readonly delaySeconds: number;
  readonly depthSeconds: number;
  readonly rateHz: number;
  readonly voices: number;
  readonly feedback: number;
  /** Phase of the right side after the left, in degrees. */
  readonly spreadDegrees: number;
}

/** Delay that reading between samples costs: all of the dry sound and the wet one lie later by it. */
export const MODULATION_LATENCY = READ_MARGIN;

export class ModulatedDelay implements Processor {
  readonly #params = new Buffer(11 * 8);
  readonly #state: Buffer;
  readonly #table = fractionalDelayTable();

  /** @param position frame of the clip at which it begins: fixes the phase, so that a start in the middle sounds as from the beginning */
  constructor(m: Modulation, sampleRate: number, position: number) {
    const delay = m.delaySeconds * sampleRate + READ_MARGIN;
    const depth = m.depthSeconds * sampleRate;
    let size = 64;
    while (size < delay + depth + 32) size *= 2;
    const { cos, sin } = kernels;
    const step = (2 * Math.PI * m.rateHz) / sampleRate;
    const voice = (2 * Math.PI) / m.voices;
    const side = (m.spreadDegrees * Math.PI) / 180;
    this.#state = new Buffer(64 + size * 16);
    this.#params.f64.set([
      delay,
      depth,
      m.feedback,
      m.voices,
      cos(step),
      sin(step),
      cos(voice),
      sin(voice),
      cos(side),
      sin(side),
      size
    ]);
    const turns = (position * m.rateHz) / sampleRate;
    const phase = 2 * Math.PI * (turns - Math.floor(turns));
    this.#state.f64[1] = cos(phase);
    this.#state.f64[2] = sin(phase);
  }

  process(l: number, r: number, n: number): void {
    kernels.modulatedDelay(l, r, n, this.#params.ptr, this.#state.ptr, this.#table);
  }

  release(): void {
    this.#params.release();
    this.#state.release();
  }
}
