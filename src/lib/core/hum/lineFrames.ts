// What stands at the lines of the mains, period by period: amplitudes, and the power of what else lies there.
import { Fft } from "../audio/fft";
import { hann } from "../audio/windows";
import { Buffer } from "../kernels/memory";
import { PERIOD } from "./mainsClock";

/** Periods in a frame: the Hann window's zeros then lie halfway between the lines. */
const PERIODS = 4;
const SIZE = PERIODS * PERIOD;
const LEAST_POWER = 1e-14;
/** Samples below this are digital silence, of which a frame may have a tenth. */
const SILENT = 1e-8;
const MOST_SILENT = 0.1;

/** One line of one channel over time; a value a period. */
export interface LineFrames {
  readonly re: Float64Array;
  readonly im: Float64Array;
  /** Power of the noise beside the line. */
  readonly noise: Float64Array;
}

export interface ChannelFrames {
  /** From the first line, the mains' own, upwards. */
  readonly lines: readonly LineFrames[];
  /** 1 where a frame is digital silence, for the most part or in a good part: it tells nothing of the hum. */
  readonly silent: Uint8Array;
}

function silentFrames(samples: Float32Array, frames: number): Uint8Array {
  const quiet = new Float64Array(frames + PERIODS + 1);
  for (let i = 0; i < samples.length; i++)
    if (Math.abs(samples[i]) < SILENT) quiet[Math.floor(i / PERIOD) + PERIODS / 2]++;
  return Uint8Array.from({ length: frames }, (_, p) => {
    let count = 0;
    for (let k = 0; k < PERIODS; k++) count += quiet[p + k];
    return Number(count > MOST_SILENT * SIZE);
  });
}

/**
 * Amplitudes of lines in frames of four periods, one a period, centred on the beginnings of periods.
 * @param channels one or two of equal length, stretched to PERIOD samples a period
 * @param count lines that are looked at, at most 60
 */
export function lineFrames(channels: readonly Float32Array[], count: number): ChannelFrames[] {
  const frames = Math.floor(channels[0].length / PERIOD) + 1;
  const window = hann(SIZE).map((w) => w / (SIZE / 2));
  const fft = new Fft(SIZE);
  const buffer = new Buffer(SIZE * 8);
  const re = buffer.ptr;
  const im = re + SIZE * 4;
  const empty = (): LineFrames => ({
    re: new Float64Array(frames),
    im: new Float64Array(frames),
    noise: new Float64Array(frames)
  });
  const out = channels.map((samples) => ({
    lines: Array.from({ length: count }, empty),
    silent: silentFrames(samples, frames)
  }));
  const raw = channels.map(() => Array.from({ length: count }, () => new Float64Array(frames)));
  for (let p = 0; p < frames; p++) {
    const view = buffer.f32;
    const from = (p - PERIODS / 2) * PERIOD;
    for (let c = 0; c < 2; c++) {
      const samples = channels[c];
      for (let i = 0; i < SIZE; i++) view[c * SIZE + i] = samples ? (samples[from + i] ?? 0) * window[i] : 0;
    }
    fft.forward(re, im);
    const z = buffer.f32;
    // A pair transformed as one: X[k] + i Y[k] at k, their conjugates at -k.
    const part = (c: number, k: number): readonly [number, number] => {
      const [ar, ai, br, bi] = [z[k], z[SIZE + k], z[SIZE - k], z[2 * SIZE - k]];
      return c === 0 ? [(ar + br) / 2, (ai - bi) / 2] : [(ai + bi) / 2, (br - ar) / 2];
    };
    for (let c = 0; c < channels.length; c++) {
      const powerAt = (k: number) => {
        const [x, y] = part(c, k);
        return x * x + y * y;
      };
      let below = powerAt(PERIODS / 2);
      for (let k = 1; k <= count; k++) {
        const line = out[c].lines[k - 1];
        const [x, y] = part(c, k * PERIODS);
        line.re[p] = 2 * x;
        line.im[p] = 2 * y;
        const above = powerAt(k * PERIODS + PERIODS / 2);
        raw[c][k - 1][p] = 2 * (below + above);
        below = above;
      }
    }
  }
  // A voice moves: the neighbours in time count too.
  out.forEach(({ lines }, c) =>
    lines.forEach(({ noise }, k) => {
      const own = raw[c][k];
      for (let p = 0; p < frames; p++)
        noise[p] = Math.max(own[p], own[Math.max(0, p - 1)], own[Math.min(frames - 1, p + 1)]) + LEAST_POWER;
    })
  );
  fft.release();
  buffer.release();
  return out;
}
