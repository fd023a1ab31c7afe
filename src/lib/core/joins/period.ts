import { Fft } from "../audio/fft";
import { hann } from "../audio/windows";
import { Buffer } from "../kernels/memory";
import type { Stereo } from "./clipSound";

/** Points of the look: 43 ms at 48 kHz. */
const SIZE = 2048;
/** The lowest frequency that has this share of the strongest one's power counts. */
const SHARE = 0.1;
/** Below this there is nothing to hear. */
const LEAST_HZ = 20;

/** Frames of a period of the lowest strong component of a stretch of sound, of which the first 2048 are looked at; 0 in silence. */
export function periodOf({ left, right }: Stereo, from: number, to: number, sampleRate: number): number {
  const fft = new Fft(SIZE);
  const memory = new Buffer(SIZE * 8);
  try {
    const n = Math.min(SIZE, to - from);
    const window = hann(n);
    for (let i = 0; i < n; i++)
      memory.f32[i] = (window[i] ?? 0) * ((left[from + i] ?? 0) + (right[from + i] ?? 0));
    fft.forward(memory.ptr, memory.ptr + SIZE * 4);
    const { f32 } = memory;
    const first = Math.max(1, Math.ceil((LEAST_HZ * SIZE) / sampleRate));
    const powers = Array.from(
      { length: SIZE / 2 - first },
      (_, k) => (f32[k + first] ?? 0) ** 2 + (f32[SIZE + k + first] ?? 0) ** 2
    );
    const strongest = powers.reduce((most, power) => Math.max(most, power), 0);
    if (strongest === 0) return 0;
    let lowest = powers.findIndex((power) => power >= SHARE * strongest);
    // The window widens every line: its middle is the top that follows.
    while ((powers[lowest + 1] ?? 0) > (powers[lowest] ?? 0)) lowest++;
    return SIZE / (lowest + first);
  } finally {
    fft.release();
    memory.release();
  }
}
