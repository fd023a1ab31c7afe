// What chorus and flanger share: voices of a delay that a sine moves.
import { fractionalDelayTaps, READ_MARGIN } from "../audio/fractionalDelay";
import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import type { Processor } from "./description";
import { withMix } from "./wetDry";

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

/** Bytes of the state before the lines: six voices, of both sides sums of 256 frames with a margin, and the places where they are read. */
const LINES = 208 + 2 * 264 * 4 + 66 * 48;
/** On each side the sound and the filters of six powers, a line each. */
const LINES_A_SIDE = 7;
/** Bytes from line to line: enough for the longest delay at 192 kHz. */
const LINE = 81920 + 320;
/** Frames between two moves of what is kept to the beginning of the lines. */
const STRETCH = 4096;

/** 3 × 2^51: makes a double's low bits those of the nearest whole number. */
const WHOLE = 1.5 * 2 ** 52;

class ModulatedDelay implements Processor {
  readonly #params = new Buffer(96);
  readonly #state: Buffer;
  readonly #taps = fractionalDelayTaps();
  readonly #keep: number;

  /** @param position position in the sound at which it begins: fixes the phase, so that a start in the middle, and a trimmed clip, sound as from the beginning */
  constructor(m: Modulation, sampleRate: number, position: number, share: number) {
    const delay = m.delaySeconds * sampleRate;
    const depth = m.depthSeconds * sampleRate;
    this.#keep = Math.ceil(delay + depth) + 4 * READ_MARGIN;
    const { cos, sin } = kernels;
    const step = (2 * Math.PI * m.rateHz) / sampleRate;
    // From the middle of four frames.
    const ways = [-1.5, -0.5, 0.5, 1.5];
    // What is fed back is needed as early as the shortest delay.
    const reach = m.feedback === 0 ? BLOCK : Math.max(1, Math.floor(delay - depth));
    this.#params.i32.set([m.voices, this.#keep + STRETCH, reach]);
    this.#params.f64.set([delay + 0.5, cos(4 * step), sin(4 * step), WHOLE], 2);
    this.#params.f32.set(
      ways.map((k) => -2 * sin((k * step) / 2) ** 2),
      12
    );
    this.#params.f32.set(
      ways.map((k) => sin(k * step)),
      16
    );
    // Voices drift apart: their powers add up.
    const level = 1 / Math.sqrt(m.voices);
    this.#params.f32.set([share * level, 1 - share, m.feedback * level], 20);
    this.#state = new Buffer(LINES + 2 * LINES_A_SIDE * LINE);
    this.#state.i32[0] = this.#keep;
    // The kernel moves the delay by fours: they lie alike wherever it begins.
    const inside = ((position % 4) + 4) % 4;
    const turns = ((position - inside + 1.5) * m.rateHz) / sampleRate;
    const begin = 2 * Math.PI * (turns - Math.floor(turns));
    const side = (m.spreadDegrees * Math.PI) / 180;
    for (let v = 0; v < m.voices; v++) {
      const phase = begin + (2 * Math.PI * v) / m.voices;
      const voice = [cos(phase), cos(phase + side), sin(phase), sin(phase + side)];
      this.#state.f64.set(
        voice.map((x) => x * depth),
        2 + v * 4
      );
    }
    if (inside > 0) this.#pass(inside);
  }

  /** Lets n ≤ BLOCK frames of silence pass. */
  #pass(n: number): void {
    const silence = new StereoBlock();
    this.process(silence.left.ptr, silence.right.ptr, n);
    silence.release();
  }

  process(l: number, r: number, n: number): void {
    kernels.modulatedDelay(l, r, n, this.#params.ptr, this.#state.ptr, this.#taps, this.#keep);
  }

  release(): void {
    this.#params.release();
    this.#state.release();
  }
}

/** Delay of a voice at a time of its sound, in seconds: what the processor reads at. side 0: left, 1: right. */
export function delayAt(m: Modulation, voice: number, side: 0 | 1, seconds: number): number {
  const spread = (side * m.spreadDegrees) / 360;
  const turns = seconds * m.rateHz + voice / m.voices + spread;
  return m.delaySeconds + m.depthSeconds * Math.sin(2 * Math.PI * turns);
}

/** Chorus or flanger with a wet/dry share in percent. position: see ModulatedDelay. */
export function modulatedDelay(
  m: Modulation,
  sampleRate: number,
  position: number,
  percent: number
): Processor {
  // The line holds the dry sound too, unless something is fed back into it.
  if (m.feedback === 0) return new ModulatedDelay(m, sampleRate, position, percent / 100);
  return withMix(new ModulatedDelay(m, sampleRate, position, 1), MODULATION_LATENCY, percent);
}
