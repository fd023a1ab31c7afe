// What gate and expander share: the kernel's parameters and timing.
import { BLOCK } from "../audio/block";
import { pole } from "../audio/smoothing";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import type { Processor } from "./description";

const MAX_LOOK_AHEAD = 0.02;
// As in the compressor: the detector waits 10 ms for the next half-wave, then lets go with 5 ms.
const DETECTOR_HOLD = 0.01;
const DETECTOR_RELEASE = 0.005;

export interface GateSettings {
  readonly thresholdDb: number;
  /** Ratio less 1: dB of reduction for each dB under the threshold. */
  readonly slope: number;
  readonly kneeDb: number;
  /** The most that is taken away, as a negative number of dB. */
  readonly rangeDb: number;
  readonly attackSeconds: number;
  readonly holdSeconds: number;
  readonly releaseSeconds: number;
  readonly hysteresisDb: number;
  readonly lookAheadSeconds: number;
}

export function gateLatency(sampleRate: number): number {
  return Math.ceil(MAX_LOOK_AHEAD * sampleRate);
}

export function gateSettle(s: GateSettings, sampleRate: number): number {
  const slowest = Math.max(s.attackSeconds, s.releaseSeconds);
  return Math.ceil((slowest * 14 + s.holdSeconds + 0.2) * sampleRate);
}

export class GateProcessor implements Processor {
  readonly #params = new Buffer(12 * 8);
  readonly #state: Buffer;

  constructor(s: GateSettings, sampleRate: number) {
    const delay = gateLatency(sampleRate);
    this.#state = new Buffer(64 + 2 * (delay + BLOCK) * 4 + (BLOCK + 8) * 4);
    this.#params.f64.set([
      s.thresholdDb,
      s.slope,
      s.rangeDb,
      pole(s.attackSeconds, sampleRate),
      pole(s.releaseSeconds, sampleRate),
      Math.round(s.holdSeconds * sampleRate),
      s.hysteresisDb,
      Math.min(delay, Math.round(s.lookAheadSeconds * sampleRate)),
      delay,
      pole(DETECTOR_RELEASE, sampleRate),
      Math.round(DETECTOR_HOLD * sampleRate),
      s.kneeDb
    ]);
    // Closed before the sound begins.
    this.#state.f64[0] = s.rangeDb;
  }

  process(l: number, r: number, n: number): void {
    kernels.gate(l, r, n, this.#params.ptr, this.#state.ptr);
  }

  release(): void {
    this.#params.release();
    this.#state.release();
  }
}
