// Clicks are samples that neither the past nor the future predicts; they are replaced by the values that make the prediction error least.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { ClickMender } from "./clickMender";

const HOP_SECONDS = 0.0213;
const CONTEXT = 0.5;
const NEAR_SECONDS = 0.012;
const REACH_SECONDS = 0.012;

/** The hop and its context are worked on in fours. */
function fours(frames: number): number {
  return 4 * Math.round(frames / 4);
}

function hopFrames(sampleRate: number): number {
  return Math.max(256, fours(HOP_SECONDS * sampleRate));
}

function contextFrames(sampleRate: number): number {
  return Math.max(128, fours(hopFrames(sampleRate) * CONTEXT));
}

/** Frames by which the output lies behind. */
export function clickLatency(sampleRate: number): number {
  return hopFrames(sampleRate) + contextFrames(sampleRate);
}

export interface ClickSettings {
  /** A click stands out of the usual prediction error by this factor. */
  readonly threshold: number;
  readonly longestSeconds: number;
}

/** Repairs a stereo stream, hop by hop, each channel on its own. */
export class ClickRepairer {
  readonly #hop: number;
  readonly #context: number;
  readonly #mender: ClickMender;
  /** Two contexts and a hop of each channel; the middle is repaired in place and leaves at the front. */
  readonly #line: Buffer;
  readonly #length: number;
  #at: number;

  constructor(
    private readonly settings: ClickSettings,
    sampleRate: number,
    position: number
  ) {
    this.#hop = hopFrames(sampleRate);
    this.#context = contextFrames(sampleRate);
    this.#length = this.#hop + 2 * this.#context;
    const longest = Math.max(2, Math.round(settings.longestSeconds * sampleRate));
    this.#mender = new ClickMender(
      this.#length,
      longest,
      Math.round(REACH_SECONDS * sampleRate),
      Math.round(NEAR_SECONDS * sampleRate)
    );
    this.#line = new Buffer((this.#length + this.#hop) * 8);
    this.#at = ((position % this.#hop) + this.#hop) % this.#hop;
  }

  /*
   *   | done, leaving | context | middle: repaired next | context |
   *   0              hop       hop + context
   */
  process(l: number, r: number, n: number): void {
    const side = (this.#length + this.#hop) * 4;
    const newest = this.#line.ptr + this.#length * 4;
    // What leaves: `latency` frames before what comes.
    const oldest = newest - (this.#hop + this.#context) * 4;
    for (let done = 0; done < n;) {
      const m = Math.min(n - done, this.#hop - this.#at);
      const at = this.#at * 4;
      kernels.copy(newest + at, l + done * 4, m);
      kernels.copy(newest + side + at, r + done * 4, m);
      kernels.copy(l + done * 4, oldest + at, m);
      kernels.copy(r + done * 4, oldest + side + at, m);
      this.#at += m;
      done += m;
      if (this.#at < this.#hop) continue;
      for (let c = 0; c < 2; c++) {
        const base = this.#line.ptr + c * side;
        kernels.copy(base, base + this.#hop * 4, this.#length);
        this.#mend(c * (this.#length + this.#hop));
      }
      this.#at = 0;
    }
  }

  #mend(start: number): void {
    const f32 = this.#line.f32;
    const x = this.#mender.sound;
    for (let i = 0; i < x.length; i++) x[i] = f32[start + i];
    this.#mender.repair(this.#context, this.#context + this.#hop, this.settings.threshold);
    for (let i = this.#context; i < this.#length; i++) f32[start + i] = x[i];
  }

  release(): void {
    this.#mender.release();
    this.#line.release();
  }
}
