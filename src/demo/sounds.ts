// The computed sounds of the demo. Deterministic: no clock, no Math.random.
import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import { BiquadCascade } from "$lib/core/audio/biquadCascade";
import { matchedSection, type Section } from "$lib/core/audio/biquadDesign";
import { butterworth } from "$lib/core/audio/matchedFilter";

export const RATE = 48000;
const TAU = 2 * Math.PI;

export type Mono = Float32Array<ArrayBuffer>;

function silence(seconds: number): Mono {
  return new Float32Array(Math.round(seconds * RATE));
}

/** White noise between -1 and 1 (mulberry32). */
function noise(seconds: number, seed: number): Mono {
  let s = seed;
  return silence(seconds).map(() => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 31 - 1;
  });
}

function filtered(x: Mono, sections: Section[]): Mono {
  const cascade = new BiquadCascade(sections);
  const block = new StereoBlock();
  const out = new Float32Array(x.length);
  for (let at = 0; at < x.length; at += BLOCK) {
    const n = Math.min(BLOCK, x.length - at);
    block.left.f32.set(x.subarray(at, at + n));
    cascade.process(block.left.ptr, block.right.ptr, n);
    out.set(block.left.f32.subarray(0, n), at);
  }
  cascade.release();
  block.release();
  return out;
}

const w = (hertz: number, rate = RATE) => (TAU * hertz) / rate;

/** The sound brought to a peak. */
export function scaled(x: Mono, peak: number): Mono {
  const top = x.reduce((a, b) => Math.max(a, Math.abs(b)), 0);
  return x.map((v) => (v * peak) / top);
}

// Partials of a small bell: ratios to the strike note with level and decay in seconds.
const BELL = [
  [0.5, 0.5, 4.5],
  [1, 1, 3.2],
  [1.19, 0.7, 2.6],
  [1.5, 0.35, 2.1],
  [2, 0.8, 1.6],
  [2.74, 0.3, 0.9],
  [3.76, 0.25, 0.5],
  [5.4, 0.18, 0.25]
] as const;

/** Three strokes, four seconds apart, each a little different. */
export function bell(): Mono {
  const out = silence(13);
  [0.25, 4.3, 8.4].forEach((at, stroke) => {
    const begin = Math.round(at * RATE);
    for (let i = begin; i < out.length; i++) {
      const t = (i - begin) / RATE;
      let v = 0;
      for (const [ratio, level, decay] of BELL)
        v += level * Math.exp(-t / decay) * Math.sin(TAU * 612 * ratio * t + stroke * ratio);
      out[i] += v * (1 - Math.exp(-t * 900)) * (1 - 0.12 * stroke);
    }
  });
  return scaled(out, 0.6);
}

/** A slow marine diesel: strokes of filtered noise over a hum of its own, one of them knocking. */
export function engine(): [Mono, Mono] {
  const seconds = 52;
  const rumble = filtered(noise(seconds, 11), butterworth("lowPass", 4, w(120)));
  const hiss = filtered(noise(seconds, 12), [matchedSection("bandPass", 1, 1.2, w(900))]);
  const left = silence(seconds);
  const right = silence(seconds);
  const strokes = 5.2;
  for (let i = 0; i < left.length; i++) {
    const t = i / RATE;
    const phase = (t * strokes * (1 + 0.004 * Math.sin(t * 0.7))) % 1;
    const push = Math.exp(-phase * 7);
    const knock = Math.floor(t * strokes) % 6 === 2 ? Math.exp(-phase * 60) * Math.sin(TAU * 340 * t) : 0;
    const body = rumble[i] * (0.6 + 2.4 * push) + 0.05 * Math.sin(TAU * 31.2 * t);
    left[i] = body + hiss[i] * push * 0.25 + knock * 0.12;
    right[i] = body + hiss[Math.max(0, i - 331)] * push * 0.25 + knock * 0.08;
  }
  return [scaled(left, 0.4), scaled(right, 0.4)];
}

/** Wind: two noises through a band whose level wanders. */
export function wind(): [Mono, Mono] {
  const seconds = 64;
  const make = (seed: number): Mono => {
    const low = filtered(noise(seconds, seed), [matchedSection("bandPass", 1, 0.8, w(260))]);
    const high = filtered(noise(seconds, seed + 1), [matchedSection("bandPass", 1, 2.5, w(780))]);
    return low.map((x, i) => {
      const t = i / RATE;
      const gust = 0.55 + 0.3 * Math.sin(t * 0.41 + seed) + 0.15 * Math.sin(t * 1.07 + 2 * seed);
      return x * gust + high[i] * gust ** 3 * 0.6;
    });
  };
  return [scaled(make(21), 0.22), scaled(make(23), 0.22)];
}

// A short theme: minor, falling, the last note long. Beat, semitones above A3, length in beats.
const THEME = [
  [0, 0, 2],
  [0, 7, 4],
  [1, 12, 1],
  [2, 10, 1],
  [3, 7, 1],
  [4, 5, 2],
  [4, 8, 4],
  [6, 3, 2],
  [8, 0, 6],
  [8, 7, 6],
  [8, 15, 6]
] as const;

/** Plucked notes with a long decay, spread over the stereo picture. The last chord rings for seconds. */
export function theme(): [Mono, Mono] {
  const left = silence(18);
  const right = silence(18);
  for (const [beat, semitones, length] of THEME) {
    const begin = Math.round((0.1 + beat * 0.95) * RATE);
    const f = 220 * 2 ** (semitones / 12);
    const place = 0.5 + 0.35 * Math.sin(semitones);
    for (let i = begin; i < left.length; i++) {
      const t = (i - begin) / RATE;
      let v = 0;
      for (let k = 1; k <= 7; k++)
        v +=
          (Math.exp((-t * (0.5 + 0.35 * k)) / (length / 3)) / k ** 1.3) *
          Math.sin(TAU * f * k * (1 + 0.0004 * k * k) * t);
      v *= 1 - Math.exp(-t * 160);
      left[i] += v * (1 - place);
      right[i] += v * place;
    }
  }
  return [scaled(left, 0.5), scaled(right, 0.5)];
}

/** The engineer, recorded far too low: his answers in one recording with pauses, under a preamplifier's hiss. */
export function interview(answers: readonly Mono[]): Mono {
  const parts = [silence(2.5), ...answers.flatMap((a) => [a, silence(2.5)])];
  const out = new Float32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  const hiss = filtered(noise(out.length / RATE, 31), [matchedSection("highPass", 1, 0.7, w(200))]);
  return out.map((x, i) => x * 0.024 + hiss[i] * 0.0005);
}

/** A telephone line at 16 kHz: its band, its noise, and 50 Hz hum with harmonics. */
export function telephone(voices: readonly Mono[], rate: number): Mono {
  const gap = new Float32Array(Math.round(1.5 * rate));
  const parts = [gap, ...voices.flatMap((v) => [v, gap])];
  const joined = new Float32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    joined.set(part, at);
    at += part.length;
  }
  const band = filtered(joined, [
    ...butterworth("highPass", 4, w(300, rate)),
    ...butterworth("lowPass", 4, w(3400, rate))
  ]);
  const line = noise(joined.length / RATE, 41);
  return band.map((x, i) => {
    const t = i / rate;
    let hum = 0;
    for (let k = 1; k <= 7; k += 2) hum += Math.sin(TAU * 50 * k * t + k) / k;
    return x * 0.45 + hum * 0.02 + (line[i] ?? 0) * 0.002;
  });
}
