// Polyphase windowed-sinc resampler for the fixed ratio of two integer rates.
// Window: Kaiser; formulas for its shape: J. F. Kaiser, as in Oppenheim and Schafer, "Discrete-Time Signal Processing", section 7.5.3.
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { bessel0, kaiserBeta } from "./windows";

// Flat to 19.3 kHz from 44.1 kHz, images 120 dB down.
const TAPS = 128;
const ATTENUATION_DB = 122;
const MAX_PHASES = 4096;
const CHUNK = 8192;

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b);
}

interface Ratio {
  readonly phases: number;
  readonly step: number;
  readonly taps: number;
}

/** phases : step is the ratio of output to input rate; odd pairs of rates are rounded to at most 4096 phases. */
function ratioOf(from: number, to: number): Ratio {
  const d = gcd(from, to);
  const exact = to / d <= MAX_PHASES;
  const phases = exact ? to / d : MAX_PHASES;
  const step = exact ? from / d : Math.round((from / to) * MAX_PHASES);
  // Going down, the filter gets longer in proportion, so that it stays as steep.
  const taps = Math.min(4096, Math.ceil((TAPS * Math.max(1, from / to)) / 8) * 8);
  return { phases, step, taps };
}

const tables = new Map<string, Buffer>();

/** The filter of a pair of rates, made once a thread: it costs as much as some seconds of sound. */
function tableOf(from: number, to: number, ratio: Ratio): Buffer {
  const key = `${from} ${to}`;
  let table = tables.get(key);
  if (!table) {
    table = makeTable(from, to, ratio);
    tables.set(key, table);
  }
  return table;
}

function makeTable(from: number, to: number, { phases, taps }: Ratio): Buffer {
  const table = new Buffer(phases * taps * 4);
  const beta = kaiserBeta(ATTENUATION_DB);
  // Width of the transition band that the taps allow; the stop band begins at the lower Nyquist frequency.
  const width = (ATTENUATION_DB - 7.95) / (2.285 * taps);
  const lower = Math.min(1, to / from);
  const cutoff = lower - width / (2 * Math.PI);
  const scale = 1 / bessel0(beta);
  const half = taps / 2;
  for (let phase = 0; phase < phases; phase++) {
    const row = new Float64Array(taps);
    let sum = 0;
    for (let k = 0; k < taps; k++) {
      const x = k - (half - 1) - phase / phases;
      const edge = x / half;
      const window = Math.abs(edge) >= 1 ? 0 : bessel0(beta * Math.sqrt(1 - edge * edge)) * scale;
      const angle = Math.PI * cutoff * x;
      row[k] = window * (x === 0 ? cutoff : kernels.sin(angle) / (Math.PI * x));
      sum += row[k];
    }
    for (let k = 0; k < taps; k++) table.f32[phase * taps + k] = row[k] / sum;
  }
  return table;
}

/** Frames that n frames at one rate make at another. */
export function resampledLength(n: number, from: number, to: number): number {
  return Math.round((n * to) / from);
}

/** Takes what was made of two channels; the views are valid during the call only. */
export type Made = (left: Float32Array, right: Float32Array) => void;

/** Resamples two channels of known length, chunk by chunk. Output frame k lies at k × from / to of the input: no delay. */
export class Resampler {
  readonly #ratio: Ratio;
  readonly #table: Buffer;
  readonly #inputs: readonly [Buffer, Buffer];
  readonly #outputs: readonly [Buffer, Buffer];
  readonly #cursor = new Buffer(8);
  #have: number;

  constructor(from: number, to: number) {
    this.#ratio = ratioOf(from, to);
    this.#table = tableOf(from, to, this.#ratio);
    const room = CHUNK + 2 * this.#ratio.taps;
    const made = Math.ceil((room * to) / from) + 8;
    this.#inputs = [new Buffer(room * 4), new Buffer(room * 4)];
    this.#outputs = [new Buffer(made * 4), new Buffer(made * 4)];
    this.#have = this.#ratio.taps / 2 - 1;
  }

  /** Takes samples (any number, as many of both channels) and hands on what can be made of them. */
  push(left: Float32Array, right: Float32Array, out: Made): void {
    for (let at = 0; at < left.length; at += CHUNK)
      this.#chunk(left.subarray(at, at + CHUNK), right.subarray(at, at + CHUNK), out);
  }

  /** Hands on what is left after the last sample. */
  end(out: Made): void {
    const rest = new Float32Array(this.#ratio.taps / 2 + 1);
    this.push(rest, rest, out);
  }

  #chunk(left: Float32Array, right: Float32Array, out: Made): void {
    const { taps, phases, step } = this.#ratio;
    const [inL, inR] = this.#inputs;
    const [outL, outR] = this.#outputs;
    inL.f32.set(left, this.#have);
    inR.f32.set(right, this.#have);
    this.#have += left.length;
    const made = kernels.resamplePair(
      inL.ptr,
      inR.ptr,
      this.#have,
      outL.ptr,
      outR.ptr,
      outL.bytes >> 2,
      this.#table.ptr,
      taps,
      phases,
      step,
      this.#cursor.ptr
    );
    const used = Math.min(this.#cursor.i32[0], this.#have);
    for (const input of this.#inputs) input.f32.copyWithin(0, used, this.#have);
    this.#have -= used;
    this.#cursor.i32[0] -= used;
    if (made > 0) out(outL.f32.subarray(0, made), outR.f32.subarray(0, made));
  }

  release(): void {
    for (const b of [...this.#inputs, ...this.#outputs, this.#cursor]) b.release();
  }
}

/** Whole channels at another rate, one or two. */
export function resampled(channels: readonly Float32Array[], from: number, to: number): Float32Array[] {
  if (from === to) return [...channels];
  const length = resampledLength(channels[0].length, from, to);
  const out = channels.map(() => new Float32Array(length));
  const resampler = new Resampler(from, to);
  let at = 0;
  const take: Made = (left, right) => {
    const n = Math.min(left.length, length - at);
    [left, right].slice(0, out.length).forEach((made, c) => out[c].set(made.subarray(0, n), at));
    at += n;
  };
  resampler.push(channels[0], channels[channels.length - 1], take);
  resampler.end(take);
  resampler.release();
  return out;
}
