import type { Section } from "../audio/biquadDesign";
import { fitSections } from "../audio/sectionFit";
import { kernels } from "../kernels/instance";

const STANDARD_RATE = 48000;
const SHELF_HERTZ = 1681.974450955533;

/** The shelf, by the bilinear transform of its analogue parameters (traced back from the standard's 48 kHz filter, as in libebur128, MIT). */
function shelfAt(sampleRate: number): Section {
  const k = kernels.tan((Math.PI * SHELF_HERTZ) / sampleRate);
  const q = 0.7071752369554196;
  const high = kernels.pow(10, 3.999843853973347 / 20);
  const band = kernels.pow(high, 0.4996667741545416);
  const a0 = 1 + k / q + k * k;
  return [
    (high + (band * k) / q + k * k) / a0,
    (2 * (k * k - high)) / a0,
    (high - (band * k) / q + k * k) / a0,
    (2 * (k * k - 1)) / a0,
    (1 - k / q + k * k) / a0
  ];
}

function highPassAt(sampleRate: number): Section {
  const k = kernels.tan((Math.PI * 38.13547087602444) / sampleRate);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return [1, -2, 1, (2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0];
}

/** |H|² of a section at w radians a sample. */
function powerOf([b0, b1, b2, a1, a2]: Section, w: number): number {
  const [c1, s1, c2, s2] = [kernels.cos(w), kernels.sin(w), kernels.cos(2 * w), kernels.sin(2 * w)];
  const above = (b0 + b1 * c1 + b2 * c2) ** 2 + (b1 * s1 + b2 * s2) ** 2;
  return above / ((1 + a1 * c1 + a2 * c2) ** 2 + (a1 * s1 + a2 * s2) ** 2);
}

/** At a low rate the transform bends the shelf towards half the rate: there it is fitted to what the standard's own filter does. */
function fittedShelf(sampleRate: number): Section {
  const standard = shelfAt(STANDARD_RATE);
  const { sections } = fitSections([shelfAt(sampleRate)], {
    power: (w) => powerOf(standard, (w * sampleRate) / STANDARD_RATE),
    centre: (2 * Math.PI * SHELF_HERTZ) / sampleRate,
    width: 1
  });
  return sections[0];
}

/** Gain of the high-pass far above its corner. The standard leaves its numerator at 1, -2, 1, which gives it 0.04 dB at 48 kHz. */
function passGain([, , , a1, a2]: Section): number {
  return 4 / (1 - a1 + a2);
}

const made = new Map<number, number[]>();

/**
 * The two sections of the K-weighting of ITU-R BS.1770-5 annex 1 for any sample rate; they follow the standard's 48 kHz filters, whose
 * coefficients they are at that rate. Ten numbers: b0 b1 b2 a1 a2 twice.
 */
export function kWeighting(sampleRate: number): number[] {
  const known = made.get(sampleRate);
  if (known) return known;
  const highPass = highPassAt(sampleRate);
  const level = passGain(highPassAt(STANDARD_RATE)) / passGain(highPass);
  const [b0, b1, b2, a1, a2] = sampleRate < STANDARD_RATE ? fittedShelf(sampleRate) : shelfAt(sampleRate);
  const all = [b0 * level, b1 * level, b2 * level, a1, a2, ...highPass];
  made.set(sampleRate, all);
  return all;
}
