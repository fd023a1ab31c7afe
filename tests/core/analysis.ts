// What tests measure on signals, by means of their own: nothing here uses the core.

export const dB = (x: number) => 20 * Math.log10(Math.max(x, 1e-15));

export function peakOf(x: ArrayLike<number>, from = 0, to = x.length): number {
  let top = 0;
  for (let i = from; i < to; i++) top = Math.max(top, Math.abs(x[i]));
  return top;
}

export function rmsOf(x: ArrayLike<number>, from = 0, to = x.length): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += x[i] * x[i];
  return Math.sqrt(sum / Math.max(1, to - from));
}

/**
 * Log-spectral distance in dB of a sound from another: root mean square of the difference of their levels in windows of 21 ms, the mean over those in which
 * the other is within 20 dB of its RMS; what lies 50 dB below a window's highest line counts as there.
 */
export function logSpectralDistance(x: Float32Array, other: Float32Array): number {
  const n = 1024;
  const least = rmsOf(other) * 0.1;
  const levels = (y: Float32Array, at: number) => {
    const { re, im } = spectrumOf(
      Float64Array.from({ length: n }, (_, i) => y[at + i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n)))
    );
    return Array.from({ length: n / 2 + 1 }, (_, k) => 10 * Math.log10(re[k] ** 2 + im[k] ** 2 + 1e-30));
  };
  const distances: number[] = [];
  for (let at = 0; at + n <= other.length; at += n) {
    if (rmsOf(other, at, at + n) < least) continue;
    const [a, b] = [levels(x, at), levels(other, at)];
    const floor = Math.max(...b) - 50;
    const squares = b.map((v, k) => (Math.max(v, floor) - Math.max(a[k], floor)) ** 2);
    distances.push(Math.sqrt(squares.reduce((sum, v) => sum + v, 0) / squares.length));
  }
  return distances.reduce((sum, v) => sum + v, 0) / distances.length;
}

/** Amplitude of the part of a signal at a frequency: direct Fourier sum with a Hann window, over [from, to). */
export function amplitudeAt(
  x: ArrayLike<number>,
  hertz: number,
  rate: number,
  from = 0,
  to = x.length
): number {
  let re = 0;
  let im = 0;
  let sum = 0;
  const n = to - from;
  for (let i = 0; i < n; i++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n);
    const angle = (2 * Math.PI * hertz * i) / rate;
    re += w * x[from + i] * Math.cos(angle);
    im -= w * x[from + i] * Math.sin(angle);
    sum += w;
  }
  return (2 * Math.hypot(re, im)) / sum;
}

/** Complex spectrum by a plain radix-2 transform in double precision; length a power of two. */
export function spectrumOf(x: ArrayLike<number>): { re: Float64Array; im: Float64Array } {
  const n = x.length;
  const re = Float64Array.from(x);
  const im = new Float64Array(n);
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i < j) {
      [re[i], re[j]] = [re[j], re[i]];
      [im[i], im[j]] = [im[j], im[i]];
    }
  }
  for (let len = 2; len <= n; len <<= 1)
    for (let i = 0; i < n; i += len)
      for (let k = 0; k < len / 2; k++) {
        const angle = (-2 * Math.PI * k) / len;
        const c = Math.cos(angle);
        const s = Math.sin(angle);
        const a = i + k;
        const b = a + len / 2;
        const tr = re[b] * c - im[b] * s;
        const ti = re[b] * s + im[b] * c;
        re[b] = re[a] - tr;
        im[b] = im[a] - ti;
        re[a] += tr;
        im[a] += ti;
      }
  return { re, im };
}

/** White noise turned pink by P. Kellet's filter (1999, published on the music-dsp list; from memory), scaled to an RMS. */
export function pink(white: Float32Array, rms: number): Float32Array {
  const b = new Float64Array(7);
  const out = white.map((w) => {
    b[0] = 0.99886 * b[0] + w * 0.0555179;
    b[1] = 0.99332 * b[1] + w * 0.0750759;
    b[2] = 0.969 * b[2] + w * 0.153852;
    b[3] = 0.8665 * b[3] + w * 0.3104856;
    b[4] = 0.55 * b[4] + w * 0.5329522;
    b[5] = -0.7616 * b[5] - w * 0.016898;
    const y = b[0] + b[1] + b[2] + b[3] + b[4] + b[5] + b[6] + w * 0.5362;
    b[6] = w * 0.115926;
    return y;
  });
  const scale = rms / rmsOf(out);
  return out.map((x) => x * scale);
}

/** Largest magnitude between the samples, by a given interpolation kernel: taps of a low-pass at `factor` times the rate, centred. */
function interpolatedPeak(x: Float32Array, taps: Float64Array, factor: number): number {
  const half = (taps.length - 1) / 2;
  let top = 0;
  for (let phase = 0; phase < factor; phase++) {
    // y[n factor + phase] = Σ x[n - k] taps[half + k factor + phase]
    const low = Math.ceil((-half - phase) / factor);
    const high = Math.floor((half - phase) / factor);
    const row = Array.from({ length: high - low + 1 }, (_, i) => taps[half + (low + i) * factor + phase]);
    for (let n = high; n < x.length + Math.min(0, low); n++) {
      let y = 0;
      for (let i = 0; i < row.length; i++) y += x[n - low - i] * row[i];
      top = Math.max(top, Math.abs(y));
    }
  }
  return top;
}

/** True peak as libebur128 1.2.6 measures it below 96 kHz: 49 taps, 4 times, a sinc in a Hann window (its interpolator, restated from memory; npm run bench compares with the library itself). */
export function ebur128TruePeak(x: Float32Array): number {
  const taps = Float64Array.from({ length: 49 }, (_, j) => {
    const m = j - 24;
    const angle = (m * Math.PI) / 4;
    return (m === 0 ? 1 : Math.sin(angle) / angle) * 0.5 * (1 - Math.cos((2 * Math.PI * j) / 48));
  });
  return interpolatedPeak(x, taps, 4);
}

/** True peak by sixteenfold band-limited interpolation: a sinc of 48 periods in a Kaiser window of 90 dB. */
export function bandLimitedPeak(x: Float32Array): number {
  const factor = 16;
  const half = 24 * factor;
  const beta = 0.1102 * (90 - 8.7);
  const bessel = (z: number) => {
    let sum = 1;
    let term = 1;
    for (let k = 1; k < 60; k++) sum += term *= (z / (2 * k)) ** 2;
    return sum;
  };
  const taps = Float64Array.from({ length: 2 * half + 1 }, (_, j) => {
    const m = j - half;
    const angle = (m * Math.PI) / factor;
    const window = bessel(beta * Math.sqrt(1 - (m / half) ** 2)) / bessel(beta);
    return (m === 0 ? 1 : Math.sin(angle) / angle) * window;
  });
  return interpolatedPeak(x, taps, factor);
}
