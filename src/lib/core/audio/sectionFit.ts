// Refines digital sections so that their magnitude follows an analogue one up to 0.82 of the Nyquist frequency (18 kHz at 44.1 kHz):
// Levenberg and Marquardt's method on the error in decibels, weighted towards its peaks (C. L. Lawson's iteration) so that the largest
// error gets small. D. W. Marquardt, SIAM J. Applied Mathematics 11 (1963); C. L. Lawson, thesis, UCLA (1961).
import { kernels } from "../kernels/instance";
import type { Section } from "./biquadDesign";
import { solve } from "./linearSystem";

const TOP = 0.82 * Math.PI;
const SPREAD_POINTS = 36;
const CENTRE_POINTS = 28;
/** 20 Hz at 44.1 kHz. */
const BOTTOM = 0.0028;
const ROUNDS = 40;
const DB = 10 / Math.LN10;
/** Deeper than this nothing is heard of the difference. */
const FLOOR_DB = -66;
const GOOD_DB = 0.02;

export interface Target {
  /** |H|² wanted at w radians a sample. */
  readonly power: (w: number) => number;
  /** Where it bends, in radians a sample: the grid is denser around it. */
  readonly centre: number;
  /** Width of the bend as a share of the centre. */
  readonly width: number;
}

interface Grid {
  readonly c1: Float64Array;
  readonly s1: Float64Array;
  readonly c2: Float64Array;
  readonly s2: Float64Array;
  readonly db: Float64Array;
}

/** Frequencies from low to high, half of them around the centre. */
function gridOf({ power, centre, width }: Target): Grid {
  const ws: number[] = [];
  const from = Math.min(centre / 4, BOTTOM);
  for (let i = 0; i < SPREAD_POINTS; i++)
    ws.push(from * kernels.exp((i / (SPREAD_POINTS - 1)) * kernels.log(TOP / from)));
  for (let i = 0; i < CENTRE_POINTS; i++) {
    const t = (2 * i) / (CENTRE_POINTS - 1) - 1;
    const w = centre * (1 + t * Math.abs(t) * Math.min(0.9, 3 * width));
    if (w > from && w < TOP) ws.push(w);
  }
  const kept = ws.filter((w) => DB * kernels.log(Math.max(1e-12, power(w))) > FLOOR_DB);
  return {
    c1: Float64Array.from(kept, (w) => kernels.cos(w)),
    s1: Float64Array.from(kept, (w) => kernels.sin(w)),
    c2: Float64Array.from(kept, (w) => kernels.cos(2 * w)),
    s2: Float64Array.from(kept, (w) => kernels.sin(2 * w)),
    db: Float64Array.from(kept, (w) => DB * kernels.log(power(w)))
  };
}

function errors(p: Float64Array, grid: Grid, out: Float64Array): void {
  for (let i = 0; i < out.length; i++) {
    const c1 = grid.c1[i];
    const s1 = grid.s1[i];
    const c2 = grid.c2[i];
    const s2 = grid.s2[i];
    let power = 1;
    for (let k = 0; k < p.length; k += 5) {
      const re = p[k] + p[k + 1] * c1 + p[k + 2] * c2;
      const im = p[k + 1] * s1 + p[k + 2] * s2;
      const dre = 1 + p[k + 3] * c1 + p[k + 4] * c2;
      const dim = p[k + 3] * s1 + p[k + 4] * s2;
      power *= (re * re + im * im) / (dre * dre + dim * dim);
    }
    out[i] = DB * kernels.log(Math.max(power, 1e-30)) - grid.db[i];
  }
}

/** Poles inside the unit circle. */
function stable(p: Float64Array): boolean {
  for (let s = 0; s < p.length; s += 5) {
    const a1 = p[s + 3];
    const a2 = p[s + 4];
    if (!(Math.abs(a2) < 1 && Math.abs(a1) < 1 + a2)) return false;
  }
  return true;
}

const largest = (e: Float64Array) => e.reduce((a, x) => Math.max(a, Math.abs(x)), 0);

/** The sections nearest to the target that are found from these, and their largest error in dB on the grid. */
export function fitSections(
  sections: readonly Section[],
  target: Target
): { sections: Section[]; errorDb: number } {
  const grid = gridOf(target);
  const m = grid.db.length;
  let p = Float64Array.from(sections.flat());
  const n = p.length;
  let e = new Float64Array(m);
  errors(p, grid, e);
  const weights = new Float64Array(m).fill(1);
  let best = p;
  let bestError = largest(e);
  let damping = 1e-3;
  const jacobian = new Float64Array(m * n);
  const moved = new Float64Array(m);
  for (let round = 0; round < ROUNDS && bestError > GOOD_DB; round++) {
    for (let j = 0; j < n; j++) {
      const h = 1e-7 * Math.max(1e-3, Math.abs(p[j]));
      const q = p.slice();
      q[j] += h;
      errors(q, grid, moved);
      for (let i = 0; i < m; i++) jacobian[i * n + j] = (moved[i] - e[i]) / h;
    }
    const cost = (x: Float64Array) => x.reduce((a, v, i) => a + weights[i] * v * v, 0);
    const now = cost(e);
    let better = false;
    for (let tries = 0; tries < 8 && !better; tries++) {
      const A = new Float64Array(n * n);
      const b = new Float64Array(n);
      for (let i = 0; i < m; i++)
        for (let j = 0; j < n; j++) {
          const wj = weights[i] * jacobian[i * n + j];
          b[j] -= wj * e[i];
          for (let k = 0; k < n; k++) A[j * n + k] += wj * jacobian[i * n + k];
        }
      for (let j = 0; j < n; j++) A[j * n + j] *= 1 + damping;
      const q = p.slice();
      if (solve(A, b, n)) {
        for (let j = 0; j < n; j++) q[j] += b[j];
        if (stable(q)) {
          errors(q, grid, moved);
          better = cost(moved) < now;
        }
      }
      if (better) {
        p = q;
        e = moved.slice();
        damping = Math.max(1e-9, damping / 5);
      } else damping *= 6;
    }
    const worst = largest(e);
    if (worst < bestError) {
      best = p.slice();
      bestError = worst;
    }
    if (!better && damping > 1e6) break;
    let sum = 0;
    for (let i = 0; i < m; i++) sum += weights[i] *= 0.3 + Math.abs(e[i]) / Math.max(1e-9, worst);
    for (let i = 0; i < m; i++) weights[i] *= m / sum;
  }
  const out: Section[] = [];
  for (let s = 0; s < n; s += 5) out.push([best[s], best[s + 1], best[s + 2], best[s + 3], best[s + 4]]);
  return { sections: out, errorDb: bestError };
}
