// The mains' frequency over time: the path on which its lines are most coherent (line tracking: R. L. Streit, R. F. Barrett, IEEE Trans. ASSP 38, 1990).
import { Fft } from "../audio/fft";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import type { ChannelFrames } from "./lineFrames";

/** Lines that are listened to; higher ones are weak and swing fast. */
const MOST_LINES = 24;
const WINDOW_SECONDS = 3;
const STEP_SECONDS = 1;
/** Transform in which a window's lines are sought, a third of whose points the window fills at most. */
const POINTS = 1024;
/** The frequency walks by so many Hz in a second (standard deviation). */
const WALK_HZ = 0.03;
const MOST_STEP_HZ = 4 * WALK_HZ;
const SCALE = 5;

export interface MainsPath {
  /** Offset from the frequency by which the frames were made, Hz: a value a window. */
  readonly offsets: Float64Array;
  /** Middle of each window, in frames. */
  readonly middles: Float64Array;
  /** Coherence along the path, a window's mean. */
  readonly score: number;
  /** Coherence along the path in each window. */
  readonly windows: Float64Array;
}

/** Score of each offset in frames [from, to): logarithms, so that no single line decides. */
function scoresOf(
  channels: readonly ChannelFrames[],
  from: number,
  to: number,
  hertz: number,
  grid: Float64Array,
  fft: Fft,
  buffer: Buffer
): Float64Array {
  const scores = new Float64Array(grid.length);
  for (const { lines, silent } of channels)
    lines.slice(0, MOST_LINES).forEach((line, index) => {
      const view = buffer.f32;
      view.fill(0);
      let weight = 0;
      for (let i = from; i < to; i++) {
        if (silent[i]) continue;
        view[i - from] = line.re[i] / line.noise[i];
        view[POINTS + i - from] = line.im[i] / line.noise[i];
        weight += 1 / line.noise[i];
      }
      if (weight === 0) return;
      fft.forward(buffer.ptr, buffer.ptr + POINTS * 4);
      const z = buffer.f32;
      const powerAt = (bin: number) => {
        const k = ((bin % POINTS) + POINTS) % POINTS;
        return z[k] * z[k] + z[POINTS + k] * z[POINTS + k];
      };
      const bins = ((index + 1) * POINTS) / hertz;
      for (let g = 0; g < grid.length; g++) {
        const x = grid[g] * bins;
        const k = Math.floor(x);
        const power = powerAt(k) + (powerAt(k + 1) - powerAt(k)) * (x - k);
        scores[g] += SCALE * kernels.log(1 + power / weight);
      }
    });
  return scores;
}

/**
 * @param hertz frequency by which the frames were made: frames a second too
 * @param span largest offset that is sought, Hz
 * @param step between two offsets, Hz
 */
export function mainsPath(
  channels: readonly ChannelFrames[],
  hertz: number,
  span: number,
  step: number
): MainsPath {
  const frames = channels[0].silent.length;
  const window = Math.min(frames, Math.floor(WINDOW_SECONDS * hertz), POINTS / 3);
  const hop = Math.max(1, Math.round(STEP_SECONDS * hertz));
  const count = Math.max(1, Math.ceil((frames - window) / hop) + 1);
  const half = Math.round(span / step);
  const grid = Float64Array.from({ length: 2 * half + 1 }, (_, i) => (i - half) * step);
  const fft = new Fft(POINTS);
  const buffer = new Buffer(POINTS * 8);
  const starts = Array.from({ length: count }, (_, w) => Math.min(w * hop, frames - window));
  const scores = starts.map((from) => scoresOf(channels, from, from + window, hertz, grid, fft, buffer));
  fft.release();
  buffer.release();

  // Viterbi: the path of the greatest sum, less what its steps cost.
  const reach = Math.ceil(MOST_STEP_HZ / step);
  const cost = Float64Array.from({ length: reach + 1 }, (_, d) => (d * step) ** 2 / (2 * WALK_HZ ** 2));
  let best = scores[0].slice();
  const back: Int32Array[] = [];
  for (const score of scores.slice(1)) {
    const from = new Int32Array(grid.length);
    const next = new Float64Array(grid.length);
    for (let g = 0; g < grid.length; g++) {
      let [most, at] = [-Infinity, g];
      for (let k = Math.max(0, g - reach); k <= Math.min(grid.length - 1, g + reach); k++) {
        const value = best[k] - cost[Math.abs(g - k)];
        if (value > most) [most, at] = [value, k];
      }
      from[g] = at;
      next[g] = most + score[g];
    }
    back.push(from);
    best = next;
  }
  let at = best.indexOf(Math.max(...best));
  const score = best[at] / count;
  const offsets = new Float64Array(count);
  const windows = new Float64Array(count);
  for (let w = count - 1; w >= 0; w--) {
    offsets[w] = grid[at];
    windows[w] = scores[w][at];
    if (w > 0) at = back[w - 1][at];
  }
  return { offsets, middles: Float64Array.from(starts, (s) => s + window / 2), score, windows };
}
