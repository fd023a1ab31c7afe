import { noise } from "../tests/core/signals";

const RATE = 48000;

/** Noise that falls 6 dB an octave above 500 Hz and swells, about as speech does (common practice, no source); at 48 kHz. */
export function speechLike(seconds: number, seed: number): Float32Array {
  let low = 0;
  return noise(seconds * RATE, 2, seed).map((x, i) => {
    low += 0.065 * (x - low);
    return low * Math.abs(Math.sin(i / 9000));
  });
}
