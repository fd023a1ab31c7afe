// Steady noise whose level changes: a fan that is switched on, a recording level that was turned. In each of three parts of the spectrum the
// likeliest path of the level over time is sought (A. J. Viterbi, IEEE Transactions on Information Theory 13, 1967): a moment's bands either lie at the
// noise, all by the same offset from its profile, or anywhere above it, where something else sounds; hardly ever below. A change costs as much as
// seconds of evidence bring. The costs were found by trial.
import { kernels } from "../kernels/instance";
import { partEdges } from "./noiseBands";

const STEP_DB = 0.5;
const LOWEST_DB = -9;
const STATES = 85;
/** How widely a band's level scatters over 170 ms, and by how much its profile may be off, in dB. */
const SCATTER_DB = 1.5;
/** Share of moments at which nothing but noise sounds, before one has listened; what else sounds may lie so far above it. */
const ALONE = 0.4;
const ABOVE_DB = 60;
/** Below the noise each so many decibels are e times less likely. */
const BELOW_DB = 1.5;
const MOST_COST = 9;
const CHANGE_COST = 150;
const DRIFT_COST = 20;

/** What moves less than this is steady. */
const LEAST_MOVE_DB = 2;

const TABLE_STEP_DB = 0.25;
const TABLE_FROM_DB = -40;
const TABLE = 600;

/** Cost of a band that lies so far above the noise, by quarter decibels from -40 up. */
function costs(): Float32Array {
  return Float32Array.from({ length: TABLE }, (_, i) => {
    const d = TABLE_FROM_DB + i * TABLE_STEP_DB;
    const noise = kernels.exp(-0.5 * (d / SCATTER_DB) ** 2) / (SCATTER_DB * Math.sqrt(2 * Math.PI));
    const other = kernels.exp(Math.min(0, d) / BELOW_DB) / ABOVE_DB;
    return Math.min(MOST_COST, -kernels.log(ALONE * noise + (1 - ALONE) * other));
  });
}

/** Levels of one moment. */
export interface BandLevels {
  /** Middle of the moment, in frames of the sound. */
  readonly frame: number;
  /** Level of each band, dB. */
  readonly levels: Float32Array;
}

/** Offsets of the noise from its profile at one time, in dB, one for each part of the spectrum; between two nodes they run straight. */
export interface TrackNode {
  readonly frame: number;
  readonly offsets: readonly number[];
}

/** The likeliest state at each moment, for bands `from` to `to`. */
function pathOf(
  moments: readonly BandLevels[],
  noise: readonly number[],
  table: Float32Array,
  from: number,
  to: number
): Int16Array {
  const came = moments.map(() => new Int16Array(STATES));
  let total = new Float64Array(STATES);
  moments.forEach(({ levels }, t) => {
    const next = new Float64Array(STATES);
    let best = 0;
    for (let s = 1; s < STATES; s++) if (total[s] < total[best]) best = s;
    for (let s = 0; s < STATES; s++) {
      let [least, by] = [total[s], s];
      if (total[best] + CHANGE_COST < least) [least, by] = [total[best] + CHANGE_COST, best];
      for (const beside of [s - 1, s + 1])
        if (beside >= 0 && beside < STATES && total[beside] + DRIFT_COST < least)
          [least, by] = [total[beside] + DRIFT_COST, beside];
      came[t][s] = by;
      const offset = LOWEST_DB + s * STEP_DB;
      for (let b = from; b < to; b++) {
        const at = Math.round((levels[b] - noise[b] - offset - TABLE_FROM_DB) / TABLE_STEP_DB);
        least += table[Math.max(0, Math.min(TABLE - 1, at))];
      }
      next[s] = least;
    }
    total = next;
  });
  const path = new Int16Array(moments.length);
  let state = total.indexOf(Math.min(...total));
  for (let t = moments.length - 1; t >= 0; t--) {
    path[t] = state;
    state = came[t][state];
  }
  return path;
}

/**
 * How the noise's level moves over the moments, of which there must be one at least.
 * @param noise level of each band at the profile's own level, dB
 */
export function followLevels(moments: readonly BandLevels[], noise: readonly number[]): TrackNode[] {
  const edges = partEdges(noise.length);
  const table = costs();
  const paths = edges.slice(1).map((edge, p) => pathOf(moments, noise, table, edges[p], edge));
  const nodes: TrackNode[] = [];
  moments.forEach(({ frame }, t) => {
    const stays = (u: number) => paths.every((path) => path[u] === path[t]);
    // Only where it changes, and both ends.
    if (t > 0 && t < moments.length - 1 && stays(t - 1) && stays(t + 1)) return;
    nodes.push({ frame, offsets: paths.map((path) => LOWEST_DB + path[t] * STEP_DB) });
  });
  return nodes;
}

/** Whether the level moves at all. */
export function moves(nodes: readonly TrackNode[]): boolean {
  return nodes.some(({ offsets }) =>
    offsets.some((offset, p) => Math.abs(offset - nodes[0].offsets[p]) > LEAST_MOVE_DB)
  );
}

export function trackToText(nodes: readonly TrackNode[]): string {
  return JSON.stringify(nodes.map(({ frame, offsets }) => [frame, ...offsets]));
}

/** What `trackToText` wrote. */
export function trackFromText(text: string): TrackNode[] {
  return (JSON.parse(text) as number[][]).map(([frame, ...offsets]) => ({ frame, offsets }));
}

/** The offsets at a frame. */
export function offsetsAt(nodes: readonly TrackNode[], frame: number): readonly number[] {
  let [low, high] = [0, nodes.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (nodes[middle].frame <= frame) low = middle + 1;
    else high = middle;
  }
  const [before, after] = [nodes[low - 1], nodes[low]];
  if (!before) return after.offsets;
  if (!after) return before.offsets;
  const share = (frame - before.frame) / (after.frame - before.frame);
  return before.offsets.map((offset, p) => offset + (after.offsets[p] - offset) * share);
}
