// First designs of second-order digital filters near their analogue prototypes; `matchedFilter.ts` refines them.
// Method: M. Vicanek, "Matched Second Order Digital Filters" (2016), from memory: poles by impulse invariance, the
// numerator from the prototype's magnitude at zero, at the centre and at the Nyquist frequency.
// Prototypes: R. Bristow-Johnson, "Audio EQ Cookbook" (W3C Note), analogue transfer functions.
import { kernels } from "../kernels/instance";

/** One section: b0 b1 b2 / 1 a1 a2. */
export type Section = readonly [b0: number, b1: number, b2: number, a1: number, a2: number];

/** A prototype: numerator n2 s² + n1 s + n0 over denominator d2 s² + d1 s + d0, s in units of the centre frequency. */
export type Prototype = readonly [n2: number, n1: number, n0: number, d2: number, d1: number, d0: number];

export type BandType = "peak" | "lowShelf" | "highShelf" | "highPass" | "lowPass" | "bandPass" | "notch";

/** |H(j·x)|² of a prototype, x = frequency / centre frequency. */
export function prototypePower(p: Prototype, x: number): number {
  const num = (p[2] - p[0] * x * x) ** 2 + (p[1] * x) ** 2;
  const den = (p[5] - p[3] * x * x) ** 2 + (p[4] * x) ** 2;
  return num / den;
}

/** The analogue prototype of a second-order band. gain is 10^(dB/40). */
export function prototype(type: BandType, gain: number, q: number): Prototype {
  const root = Math.sqrt(gain);
  switch (type) {
    case "peak":
      return [1, gain / q, 1, 1, 1 / (gain * q), 1];
    case "lowShelf":
      return [gain, (gain * root) / q, gain * gain, gain, root / q, 1];
    case "highShelf":
      return [gain * gain, (gain * root) / q, gain, 1, root / q, gain];
    case "highPass":
      return [1, 0, 0, 1, 1 / q, 1];
    case "lowPass":
      return [0, 0, 1, 1, 1 / q, 1];
    case "bandPass":
      return [0, 1 / q, 0, 1, 1 / q, 1];
    case "notch":
      return [1, 0, 1, 1, 1 / q, 1];
  }
}

function matchedPoles(p: Prototype, w: number): [a1: number, a2: number] {
  const centre = Math.sqrt(p[5] / p[3]) * w;
  const damping = p[4] / (2 * Math.sqrt(p[5] * p[3]));
  const decay = kernels.exp(-damping * centre);
  if (damping <= 1) {
    const angle = Math.min(Math.PI, Math.sqrt(1 - damping * damping) * centre);
    return [-2 * decay * kernels.cos(angle), decay * decay];
  }
  const spread = Math.sqrt(damping * damping - 1) * centre;
  const slow = kernels.exp(spread - damping * centre);
  const fast = kernels.exp(-spread - damping * centre);
  return [-(slow + fast), decay * decay];
}

/**
 * Digital section for a prototype. w: centre frequency in radians a sample, 0 < w < π.
 */
export function matchedSection(type: BandType, gain: number, q: number, w: number): Section {
  const p = prototype(type, gain, q);
  const [a1, a2] = matchedPoles(p, w);
  const s = kernels.sin(w / 2);
  const phi1 = s * s;
  const phi0 = 1 - phi1;
  const phi2 = 4 * phi0 * phi1;
  const A0 = (1 + a1 + a2) ** 2;
  const A1 = (1 - a1 + a2) ** 2;
  const A2 = -4 * a2;
  const denominator = A0 * phi0 + A1 * phi1 + A2 * phi2;
  if (type === "notch") {
    const k = Math.sqrt(A0) / (2 - 2 * kernels.cos(w));
    return [k, -2 * kernels.cos(w) * k, k, a1, a2];
  }
  if (type === "highPass") {
    const b0 = (Math.sqrt(denominator * prototypePower(p, 1)) / (4 * phi1)) as number;
    return [b0, -2 * b0, b0, a1, a2];
  }
  if (type === "bandPass") {
    const R1 = denominator;
    const R2 = -A0 + A1 + 4 * (phi0 - phi1) * A2;
    const B2 = (R1 - R2 * phi1) / (4 * phi1 * phi1);
    const B1 = R2 + 4 * (phi1 - phi0) * B2;
    const b1 = -0.5 * Math.sqrt(Math.max(0, B1));
    const b0 = 0.5 * (Math.sqrt(Math.max(0, B2 + b1 * b1)) - b1);
    return [b0, b1, -b0 - b1, a1, a2];
  }
  const B0 = A0 * prototypePower(p, 0);
  const B1 = A1 * prototypePower(p, Math.PI / w);
  const B2 = (denominator * prototypePower(p, 1) - B0 * phi0 - B1 * phi1) / phi2;
  const W = 0.5 * (Math.sqrt(B0) + Math.sqrt(B1));
  const b0 = 0.5 * (W + Math.sqrt(Math.max(0, W * W + B2)));
  return [b0, 0.5 * (Math.sqrt(B0) - Math.sqrt(B1)), -B2 / (4 * b0), a1, a2];
}

/**
 * A cut at w radians a sample, `width` radians wide at -3 dB, that leaves zero and Nyquist at 1: S. J. Orfanidis, "Introduction to
 * Signal Processing" (1996), equation 11.3.5.
 */
export function notchSection(w: number, width: number): Section {
  const b = 1 / (1 + kernels.tan(width / 2));
  const c = -2 * kernels.cos(w) * b;
  return [b, c, b, c, 2 * b - 1];
}

/** First-order high- or low-pass, matched at zero, the corner and Nyquist as far as one pole and one zero can. */
export function firstOrder(type: "highPass" | "lowPass", w: number): Section {
  const pole = kernels.exp(-w);
  if (type === "highPass") {
    const k = Math.sqrt(
      ((1 - pole) ** 2 + 4 * pole * kernels.sin(w / 2) ** 2) / (8 * kernels.sin(w / 2) ** 2)
    );
    return [k, -k, 0, -pole, 0];
  }
  const x = Math.PI / w;
  const atNyquist = (1 + pole) / Math.sqrt(1 + x * x);
  const b0 = 0.5 * (1 - pole + atNyquist);
  return [b0, 1 - pole - b0, 0, -pole, 0];
}

/** Gain in dB of a cascade at w radians a sample: its transfer function evaluated on the unit circle. */
export function responseDb(sections: readonly Section[], w: number): number {
  const c1 = Math.cos(w);
  const s1 = Math.sin(w);
  const c2 = Math.cos(2 * w);
  const s2 = Math.sin(2 * w);
  let power = 1;
  for (const [b0, b1, b2, a1, a2] of sections) {
    const num = (b0 + b1 * c1 + b2 * c2) ** 2 + (b1 * s1 + b2 * s2) ** 2;
    const den = (1 + a1 * c1 + a2 * c2) ** 2 + (a1 * s1 + a2 * s2) ** 2;
    power *= num / den;
  }
  return 10 * Math.log10(Math.max(power, 1e-30));
}

/** Frames until every pole of a cascade has decayed by 120 dB. */
export function settleFrames(sections: readonly Section[]): number {
  let slowest = 0;
  for (const [, , , a1, a2] of sections) {
    const root = a1 * a1 - 4 * a2;
    const radius = root < 0 ? Math.sqrt(a2) : (Math.abs(a1) + Math.sqrt(root)) / 2;
    slowest = Math.max(slowest, radius);
  }
  return slowest <= 0 ? 0 : Math.ceil(Math.log(1e-6) / Math.log(Math.min(slowest, 0.999999)));
}
