import { BiquadCascade } from "../audio/biquadCascade";
import { settleFrames, type BandType, type Section } from "../audio/biquadDesign";
import { bandFilter, butterworth } from "../audio/matchedFilter";
import { dbToGain } from "../units/decibels";
import { choice, isOn, num, type EffectDescription, type Param, type Params } from "./description";

export const EQ_BANDS = 8;

const TYPES: readonly { value: BandType; label: string }[] = [
  { value: "peak", label: "Peak" },
  { value: "lowShelf", label: "Low shelf" },
  { value: "highShelf", label: "High shelf" },
  { value: "highPass", label: "High-pass" },
  { value: "lowPass", label: "Low-pass" },
  { value: "bandPass", label: "Band-pass" },
  { value: "notch", label: "Notch" }
];

// A shelf with a higher Q only rings at its corner.
const SHELF_Q = 2;
const SLOPES = [6, 12, 18, 24, 36, 48];
const START_FREQUENCIES = [80, 160, 320, 640, 1250, 2500, 5000, 10000];

function bandParams(band: number): Param[] {
  const group = `Band ${band}`;
  return [
    { kind: "switch", id: `on${band}`, name: "On", group, default: false, help: "Whether the band works." },
    {
      kind: "choice",
      id: `type${band}`,
      name: "Type",
      group,
      choices: TYPES,
      default: "peak",
      help: "Shape of the band."
    },
    {
      kind: "number",
      id: `freq${band}`,
      name: "Frequency",
      group,
      unit: "Hz",
      min: 20,
      max: 20000,
      default: START_FREQUENCIES[band - 1],
      decimals: 0,
      step: 10,
      scale: "log",
      help: "Centre or corner frequency."
    },
    {
      kind: "number",
      id: `gain${band}`,
      name: "Gain",
      group,
      unit: "dB",
      min: -24,
      max: 24,
      default: 0,
      decimals: 1,
      step: 0.5,
      scale: "linear",
      help: "Boost or cut of a peak or shelf."
    },
    {
      kind: "number",
      id: `q${band}`,
      name: "Q",
      group,
      unit: "",
      min: 0.1,
      max: 30,
      default: 0.71,
      decimals: 2,
      step: 0.05,
      scale: "log",
      help: "Narrowness: a higher Q touches fewer neighbours. Shelves use 2 at most."
    },
    {
      kind: "choice",
      id: `slope${band}`,
      name: "Slope",
      group,
      choices: SLOPES.map((s) => ({ value: String(s), label: `${s} dB/oct` })),
      default: "12",
      help: "Steepness of a high- or low-pass (Butterworth)."
    }
  ];
}

/** Whether a band of this type has a gain, a Q, or a slope. */
export function bandUses(type: string): { gain: boolean; q: boolean; slope: boolean } {
  const pass = type === "highPass" || type === "lowPass";
  return { gain: type === "peak" || type.endsWith("Shelf"), q: !pass, slope: pass };
}

/** The second-order sections of one band; none when it is off. */
export function bandSections(params: Params, band: number, sampleRate: number): Section[] {
  if (!isOn(params, `on${band}`)) return [];
  const type = choice(params, `type${band}`) as BandType;
  const hertz = Math.min(num(params, `freq${band}`), sampleRate * 0.475);
  const w = (2 * Math.PI * hertz) / sampleRate;
  if (type === "highPass" || type === "lowPass")
    return butterworth(type, Number(choice(params, `slope${band}`)) / 6, w);
  const amplitude = dbToGain(num(params, `gain${band}`) / 2);
  if (bandUses(type).gain && amplitude === 1) return [];
  const q = num(params, `q${band}`);
  return [...bandFilter(type, amplitude, type.endsWith("Shelf") ? Math.min(SHELF_Q, q) : q, w)];
}

/** All sections of the equalizer, in order of the bands. */
export function eqSections(params: Params, sampleRate: number): Section[] {
  const sections: Section[] = [];
  for (let band = 1; band <= EQ_BANDS; band++) sections.push(...bandSections(params, band, sampleRate));
  return sections;
}

function band(n: number, type: BandType, freq: number, rest: Params = {}): Params {
  const named = Object.fromEntries(Object.entries(rest).map(([key, value]) => [`${key}${n}`, value]));
  return { [`on${n}`]: true, [`type${n}`]: type, [`freq${n}`]: freq, ...named };
}

export const parametricEq: EffectDescription = {
  id: "parametric-eq",
  name: "Parametric EQ",
  group: "tone",
  help: "Eight bands that raise, lower or cut parts of the spectrum.",
  keywords: ["equalizer", "filter", "high-pass", "low-pass", "shelf", "notch", "bass", "treble"],
  params: Array.from({ length: EQ_BANDS }, (_, i) => bandParams(i + 1)).flat(),
  presets: [
    {
      name: "Clear speech",
      params: {
        ...band(1, "highPass", 80),
        ...band(2, "peak", 260, { gain: -3, q: 1.2 }),
        ...band(3, "peak", 3200, { gain: 2.5, q: 0.9 })
      }
    },
    {
      name: "Telephone line",
      params: {
        ...band(1, "highPass", 300, { slope: "24" }),
        ...band(2, "lowPass", 3400, { slope: "24" })
      }
    },
    { name: "Less rumble", params: { ...band(1, "highPass", 60, { slope: "24" }) } }
  ],
  summary(params) {
    const used: string[] = [];
    for (let n = 1; n <= EQ_BANDS; n++) if (isOn(params, `on${n}`)) used.push(String(n));
    return used.length === 0 ? "flat" : `${used.length} band${used.length === 1 ? "" : "s"}`;
  },
  latency: () => 0,
  settle: (params, sampleRate) => settleFrames(eqSections(params, sampleRate)),
  create: (params, sampleRate) => new BiquadCascade(eqSections(params, sampleRate))
};
