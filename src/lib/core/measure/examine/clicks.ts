// Clicks, as the repair finds them, that stand out of what lies around them: voices have pulses and bursts that only nearly do.
import { StereoBlock } from "../../audio/block";
import { ClickRepairer, clickLatency } from "../../audio/clickRepairer";
import { kernels } from "../../kernels/instance";
import { MOST_PLACES, type Finding, type FindingPlace, type Look } from "./finding";

const LEAST_CLICKS = 4;
const CLICKS_A_MINUTE = 20;
/** Stricter than the effect is by itself: what is reported should be one. */
const CLICK_THRESHOLD = 16;
const LONGEST_CLICK_SECONDS = 0.0015;
/** What is repaired within this is one click. */
const ONE_CLICK_SECONDS = 0.01;
/** So far around a click the sound tells how rough it is by itself. */
const AROUND_SECONDS = 0.02;
/** Samples beside a click that may still be its own. */
const BESIDE = 6;
/**
 * A click's bend, its largest second difference, is at least so many times the fourth largest around it. Own choice, made before the repair
 * itself asked how well a click is explained: in 225 s of clean speech of three kinds it left 2 to 7 of 5 to 36 a minute; of clicks of 1 to 12 samples that were made in it 90 a minute, 39 to 82 a
 * minute were left.
 */
const ROUGHER = 4;

/** The fourth largest of what is shown to it. */
class FourthLargest {
  readonly #top = [0, 0, 0, 0];

  see(value: number): void {
    let v = value;
    for (let i = 0; i < 4; i++) if (v > this.#top[i]) [this.#top[i], v] = [v, this.#top[i]];
  }

  get value(): number {
    return this.#top[3];
  }
}

/** One channel: what was repaired of it, and whether that stood out. */
class Side {
  /** The latest of the input, in a ring. */
  readonly #input: Float32Array;
  readonly #around: number;
  readonly #apart: number;
  #frame = 0;
  #from = -1;
  #to = -1;

  constructor(
    sampleRate: number,
    private readonly latency: number,
    private readonly click: (frame: number) => void
  ) {
    this.#around = Math.round(AROUND_SECONDS * sampleRate);
    this.#apart = Math.round(ONE_CLICK_SECONDS * sampleRate);
    this.#input = new Float32Array(latency + 5 * this.#around);
  }

  #at(frame: number): number {
    return this.#input[frame % this.#input.length];
  }

  /** Takes the next frame, and what has become of the one a latency ago. */
  push(input: number, output: number): void {
    const frame = this.#frame - this.latency;
    this.#input[this.#frame % this.#input.length] = input;
    this.#frame++;
    if (frame >= 0 && output !== this.#at(frame)) this.#repaired(frame);
    else if (this.#from >= 0 && frame - this.#to > this.#around) this.end();
  }

  #repaired(frame: number): void {
    // What goes on for long is judged in parts: the ring holds no more.
    if (this.#from >= 0 && (frame - this.#to > this.#apart || frame - this.#from > this.#around)) this.end();
    if (this.#from < 0) this.#from = frame;
    this.#to = frame;
  }

  #bend(frame: number): number {
    return Math.abs(this.#at(frame - 1) - 2 * this.#at(frame) + this.#at(frame + 1));
  }

  /** Judges what was repaired last, if that is still to be done. */
  end(): void {
    if (this.#from < 0) return;
    const [from, to] = [this.#from, this.#to];
    this.#from = -1;
    const first = Math.max(1, from - this.#around);
    const last = Math.min(this.#frame - 2, to + this.#around);
    let own = 0;
    const others = new FourthLargest();
    for (let f = first; f <= last; f++) {
      if (f >= from - 1 && f <= to + 1) own = Math.max(own, this.#bend(f));
      else if (f < from - BESIDE || f > to + BESIDE) others.see(this.#bend(f));
    }
    if (own >= ROUGHER * others.value) this.click(from);
  }
}

export class ClickLook implements Look {
  readonly #repairer: ClickRepairer;
  readonly #block = new StereoBlock();
  readonly #sides: readonly [Side, Side];
  readonly #at: number[] = [];

  constructor(
    private readonly sampleRate: number,
    private readonly frames: number
  ) {
    const settings = { threshold: CLICK_THRESHOLD, longestSeconds: LONGEST_CLICK_SECONDS };
    this.#repairer = new ClickRepairer(settings, sampleRate, 0);
    const side = () => new Side(sampleRate, clickLatency(sampleRate), (frame) => this.#at.push(frame));
    this.#sides = [side(), side()];
  }

  push(l: number, r: number, n: number): void {
    const { left, right } = this.#block;
    kernels.copy(left.ptr, l, n);
    kernels.copy(right.ptr, r, n);
    this.#repairer.process(left.ptr, right.ptr, n);
    const outputs = [left.f32, right.f32];
    const inputs = [l, r].map((address) => new Float32Array(kernels.memory.buffer, address, n));
    this.#sides.forEach((side, c) => {
      for (let i = 0; i < n; i++) side.push(inputs[c][i], outputs[c][i]);
    });
  }

  /** Frames of all clicks; those of both sides at once count once. */
  #clicks(): number[] {
    const apart = ONE_CLICK_SECONDS * this.sampleRate;
    const sorted = [...this.#at].sort((a, b) => a - b);
    return sorted.filter((frame, i) => i === 0 || frame - (sorted[i - 1] ?? 0) >= apart);
  }

  finish(): Finding[] {
    for (const side of this.#sides) side.end();
    const clicks = this.#clicks();
    const rate = clicks.length / (this.frames / this.sampleRate / 60);
    if (clicks.length < LEAST_CLICKS || rate <= CLICKS_A_MINUTE) return [];
    const places: FindingPlace[] = clicks.slice(0, MOST_PLACES).map((frame) => ({
      from: frame / this.sampleRate,
      to: frame / this.sampleRate + LONGEST_CLICK_SECONDS
    }));
    return [
      {
        kind: "clicks",
        certainty: "likely",
        value: rate,
        unit: "a minute",
        text: `${Math.round(rate)} clicks a minute.`,
        places,
        step: { effect: "click-repair", params: {} }
      }
    ];
  }

  release(): void {
    this.#repairer.release();
    this.#block.release();
  }
}
