// Copies finished frames to the output. Its only own doing: a ramp of 3 ms when sound starts or stops in the middle of a wave.
import { Ring, State, type RingMemory } from "./ring";

declare const sampleRate: number;
declare const AudioWorkletProcessor: new (options: { processorOptions: RingMemory }) => object;
declare function registerProcessor(name: string, processor: unknown): void;

class Player extends AudioWorkletProcessor {
  readonly #ring: Ring;
  readonly #step = 1 / (0.003 * sampleRate);
  #level = 0;

  constructor(options: { processorOptions: RingMemory }) {
    super(options);
    this.#ring = new Ring(options.processorOptions);
  }

  process(_inputs: Float32Array[][], [[left, right]]: Float32Array[][]): boolean {
    const { state } = this.#ring;
    if (state === State.stopped) {
      this.#level = 0;
      return true;
    }
    const taken = this.#ring.take(left, right, left.length);
    const target = state === State.playing ? 1 : 0;
    if (this.#level !== target) this.#ramp(left, right, taken, target);
    if (state === State.stopping && (this.#level === 0 || taken === 0)) {
      this.#ring.discard();
      this.#ring.state = State.stopped;
    }
    return true;
  }

  #ramp(left: Float32Array, right: Float32Array, n: number, target: number): void {
    for (let i = 0; i < n; i++) {
      left[i] *= this.#level;
      right[i] *= this.#level;
      this.#level =
        target === 1 ? Math.min(1, this.#level + this.#step) : Math.max(0, this.#level - this.#step);
    }
  }
}

registerProcessor("wring-player", Player);
