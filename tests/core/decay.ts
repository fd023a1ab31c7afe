// Decay times of rooms, as ISO 3382-1 measures them.
import { RATE } from "./signals";

/** An octave band by second-order Butterworth band-pass sections, run twice: steep enough to tell 500 Hz from 1 kHz. */
export function octave(x: Float32Array, centre: number): Float64Array {
  const out = Float64Array.from(x);
  const w = (2 * Math.PI * centre) / RATE;
  const alpha = Math.sin(w) * Math.SQRT1_2;
  const b0 = alpha / (1 + alpha);
  const a1 = (-2 * Math.cos(w)) / (1 + alpha);
  const a2 = (1 - alpha) / (1 + alpha);
  for (let pass = 0; pass < 3; pass++) {
    let x1 = 0;
    let x2 = 0;
    let y1 = 0;
    let y2 = 0;
    for (let i = 0; i < out.length; i++) {
      const y = b0 * (out[i] - x2) - a1 * y1 - a2 * y2;
      x2 = x1;
      x1 = out[i];
      y2 = y1;
      out[i] = y1 = y;
    }
  }
  return out;
}

/** T30 in seconds: M. R. Schroeder's backward integration, straight line between -5 and -35 dB (ISO 3382-1, 5.3.3 and annex). */
export function decayTime(response: ArrayLike<number>): number {
  const energy = new Float64Array(response.length);
  let sum = 0;
  for (let i = response.length - 1; i >= 0; i--) energy[i] = sum += response[i] ** 2;
  let [n, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0];
  for (let i = 0; i < energy.length; i++) {
    const level = 10 * Math.log10(energy[i] / energy[0]);
    if (level > -5 || level < -35) continue;
    const t = i / RATE;
    n++;
    sx += t;
    sy += level;
    sxx += t * t;
    sxy += t * level;
  }
  return -60 / ((n * sxy - sx * sy) / (n * sxx - sx * sx));
}
