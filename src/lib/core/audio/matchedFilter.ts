// Digital filters whose magnitude is their analogue prototype's up to 0.82 of the Nyquist frequency, within 0.2 dB: no cramping at the top.
import { kernels } from "../kernels/instance";
import {
  firstOrder,
  matchedSection,
  prototype,
  prototypePower,
  type BandType,
  type Section
} from "./biquadDesign";
import { fitSections, type Target } from "./sectionFit";

// Worse than this with one section, a second is added.
const ENOUGH_DB = 0.12;
const REMEMBERED = 1000;
const known = new Map<string, readonly Section[]>();

function remembered(key: string, make: () => readonly Section[]): readonly Section[] {
  let sections = known.get(key);
  if (!sections) {
    sections = make();
    if (known.size >= REMEMBERED) known.delete(known.keys().next().value as string);
    known.set(key, sections);
  }
  return sections;
}

// Near the top a first design for a lower centre may lead to a better end.
const STARTS = [1, 0.5, 0.3];

/** @param design makes a first design for a centre */
function fitted(design: (w: number) => Section, target: Target): Section[] {
  let best: ReturnType<typeof fitSections> = { sections: [], errorDb: Infinity };
  for (const start of STARTS) {
    if (best.errorDb <= ENOUGH_DB) break;
    const fit = fitSections([design(target.centre * start)], target);
    if (fit.errorDb < best.errorDb) best = fit;
  }
  if (best.errorDb <= ENOUGH_DB) return best.sections;
  const two = fitSections([...best.sections, [1, -0.2, 0, -0.2, 0]], target);
  return two.errorDb < best.errorDb ? two.sections : best.sections;
}

/** The filter that undoes a section, times a gain. Zeros are inside the unit circle for peaks and shelves. */
function undone([b0, b1, b2, a1, a2]: Section, gain = 1): Section {
  return [gain / b0, (gain * a1) / b0, (gain * a2) / b0, b1 / b0, b2 / b0];
}

function boost(type: "peak" | "lowShelf", gain: number, q: number, w: number): readonly Section[] {
  return remembered(`${type} ${gain} ${q} ${w}`, () => {
    const p = prototype(type, gain, q);
    const target = { power: (x: number) => prototypePower(p, x / w), centre: w, width: 1 / q };
    return fitted((x) => matchedSection(type, gain, q, x), target);
  });
}

/**
 * Sections of a band. gain: 10^(dB/40), used by peaks and shelves; w: centre in radians a sample, 0 < w < π.
 * Cuts are boosts undone, and a high shelf is a low one undone and raised: so they mirror each other exactly.
 */
export function bandFilter(type: BandType, gain: number, q: number, w: number): readonly Section[] {
  const up = gain >= 1 ? gain : 1 / gain;
  if (type === "peak" || type === "lowShelf") {
    const sections = boost(type, up, q, w);
    return gain >= 1 ? sections : sections.map((s) => undone(s));
  }
  if (type === "highShelf") {
    // In the prototypes: high shelf × low shelf = gain².
    const low = boost("lowShelf", up, q, w);
    if (gain >= 1) return low.map((s, i) => undone(s, i === 0 ? up * up : 1));
    return low.map((s, i) => (i === 0 ? scaled(s, 1 / (up * up)) : s));
  }
  return remembered(`${type} ${q} ${w}`, () => {
    const p = prototype(type, 1, q);
    return fitted((x) => matchedSection(type, 1, q, x), {
      power: (x) => prototypePower(p, x / w),
      centre: w,
      width: 1 / q
    });
  });
}

function scaled([b0, b1, b2, a1, a2]: Section, gain: number): Section {
  return [b0 * gain, b1 * gain, b2 * gain, a1, a2];
}

/** Butterworth high- or low-pass of any order as sections. w: corner in radians a sample. */
export function butterworth(type: "highPass" | "lowPass", order: number, w: number): Section[] {
  const sections: Section[] = [];
  for (let k = 0; k < Math.floor(order / 2); k++) {
    const angle = (Math.PI * (2 * k + 1)) / (2 * order);
    sections.push(...bandFilter(type, 1, 1 / (2 * kernels.sin(angle)), w));
  }
  if (order % 2 === 1)
    sections.push(
      ...remembered(`${type} 1 ${w}`, () => {
        const power = (x: number) => {
          const r = (x / w) ** 2;
          return type === "highPass" ? r / (1 + r) : 1 / (1 + r);
        };
        return fitted((x) => firstOrder(type, x), { power, centre: w, width: 1 });
      })
    );
  return sections;
}
