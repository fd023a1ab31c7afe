// Test signals for the pictures. Deterministic.
export const RATE = 48000;
export type Signal = Float32Array<ArrayBuffer>;

export function sine(hertz: number, amplitude: number, seconds: number): Signal {
  return Float32Array.from(
    { length: Math.round(seconds * RATE) },
    (_, i) => amplitude * Math.sin((2 * Math.PI * hertz * i) / RATE)
  );
}

const noises = new Map<string, Signal>();

export function noise(seconds: number, amplitude: number): Signal {
  const key = `${seconds} ${amplitude}`;
  let made = noises.get(key);
  if (!made) {
    let seed = 7;
    made = Float32Array.from({ length: Math.round(seconds * RATE) }, () => {
      seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
      return (seed / 2 ** 31) * amplitude;
    });
    noises.set(key, made);
  }
  return made;
}

/** Bursts like words: a voiced buzz with an envelope, silence between. */
export function speechLike(seconds: number): Signal {
  return Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => {
    const t = i / RATE;
    const word = Math.max(0, Math.sin(2 * Math.PI * 1.6 * t) - 0.2);
    let buzz = 0;
    for (let h = 1; h <= 12; h++) buzz += Math.sin(2 * Math.PI * 120 * h * t + h * h) / (1 + h * 0.6);
    return word * buzz * 0.3;
  });
}
