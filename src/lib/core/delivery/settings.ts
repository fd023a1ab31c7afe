// How files are delivered: what a delivery preset holds.
import { z } from "zod";
import { CODINGS, DELIVERY_RATES, type CodingName } from "./codings";

const seconds = z.number().min(0).max(60);
const text = (most: number) => z.string().max(most);

/** Tags by the names that all containers share; empty: not written. */
export const tagsSchema = z.object({
  title: text(200),
  artist: text(200),
  album: text(200),
  genre: text(100),
  date: text(40),
  track: text(20),
  comment: text(1000),
  copyright: text(200)
});
export type Tags = z.infer<typeof tagsSchema>;
export const TAG_NAMES = Object.keys(tagsSchema.shape) as readonly (keyof Tags)[];

/**
 * Whether a date tag is one that programs read: a year, a month or a day that there is, "2031", "2031-04", "2031-04-09".
 * ID3v2.4.0 structure, section 4, takes these of ISO 8601; FLAC and Ogg (DATE) and MP4 take any text.
 */
export function isTagDate(text: string): boolean {
  const whole = { 4: `${text}-01-01`, 7: `${text}-01`, 10: text }[text.length];
  return z.iso.date().safeParse(whole).success;
}

/** A picture of at most 2 MB, as a data URL. */
const cover = z
  .string()
  .regex(/^data:image\/(png|jpeg);base64,[A-Za-z0-9+/=]+$/, "is no PNG or JPEG picture")
  .max(2_800_000, "is larger than 2 MB");

export const deliverySettingsSchema = z.object({
  coding: z.enum(Object.keys(CODINGS) as [CodingName, ...CodingName[]]),
  bits: z.enum(["int16", "int24", "float32"]),
  dither: z.enum(["none", "triangular", "shaped"]),
  /** Whether the rate of bits is held or the quality, where a coding has both. */
  mode: z.enum(["constant", "variable"]),
  kbps: z.number().int().min(16).max(512),
  quality: z.number().min(0).max(10),
  /** null: that of the project. */
  sampleRate: z.union(DELIVERY_RATES.map((rate) => z.literal(rate))).nullable(),
  channels: z.enum(["stereo", "mono", "dual-mono"]),
  /** Gain that brings each file to a level; null: as it is. */
  level: z
    .object({ of: z.enum(["integrated", "true-peak", "peak"]), to: z.number().min(-70).max(0) })
    .nullable(),
  /** The true peak that the written file must not pass: the gain is lowered until it holds. null: none. */
  ceilingDbtp: z.number().min(-40).max(0).nullable(),
  /** Sound below this at both ends is cut away, in dBFS; null: nothing is. */
  trimBelowDb: z.number().min(-120).max(-20).nullable(),
  silenceBefore: seconds,
  silenceAfter: seconds,
  fadeIn: seconds,
  fadeOut: seconds,
  /** Sections as cue points or chapters. */
  sections: z.boolean(),
  /** Fields of the broadcast extension of WAV files. */
  description: text(256),
  originator: text(32),
  reference: text(32),
  tags: tagsSchema,
  cover: cover.nullable(),
  /** Name of each file without its ending. */
  pattern: z.string().trim().min(1, "The name of the files is empty.").max(200)
});
export type DeliverySettings = z.infer<typeof deliverySettingsSchema>;

/** What is delivered when nobody has chosen anything. */
export function standardSettings(): DeliverySettings {
  const tags = Object.fromEntries(TAG_NAMES.map((name) => [name, ""])) as Tags;
  return {
    coding: "wav",
    bits: "int24",
    dither: "triangular",
    mode: "constant",
    kbps: 192,
    quality: 2,
    sampleRate: null,
    channels: "stereo",
    level: null,
    ceilingDbtp: null,
    trimBelowDb: null,
    silenceBefore: 0,
    silenceAfter: 0,
    fadeIn: 0,
    fadeOut: 0,
    sections: true,
    description: "",
    originator: "",
    reference: "",
    tags,
    cover: null,
    pattern: "{project} {name}"
  };
}

/** Settings as a change of coding leaves them: what the coding cannot hold goes to its standard. */
export function withCoding(settings: DeliverySettings, coding: CodingName): DeliverySettings {
  const { kbps, quality, bits, rates } = CODINGS[coding];
  const rate = settings.sampleRate;
  return {
    ...settings,
    coding,
    bits: bits.length === 0 || bits.includes(settings.bits) ? settings.bits : (bits.at(-1) ?? "int24"),
    mode: kbps ? (quality ? settings.mode : "constant") : "variable",
    kbps: kbps ? kbps.standard : settings.kbps,
    quality: quality ? quality.standard : settings.quality,
    sampleRate: rate === null || rates.includes(rate) ? rate : (rates.at(-1) ?? null)
  };
}

/** The rate at which a file is written: the wanted one, or where a coding does not have the project's, its highest. */
export function rateOf({ coding, sampleRate }: DeliverySettings, projectRate: number): number {
  const wanted = sampleRate ?? projectRate;
  const rates: readonly number[] = CODINGS[coding].rates;
  return rates.includes(wanted) ? wanted : (rates.at(-1) ?? wanted);
}

/** Why settings cannot be carried out, in a sentence; undefined when they can. */
export function settingsFault(settings: DeliverySettings): string | undefined {
  const { name, rates, kbps, quality, bits } = CODINGS[settings.coding];
  const { sampleRate } = settings;
  const khz = (rate: number) => `${rate / 1000} kHz`;
  if (sampleRate !== null && !rates.includes(sampleRate))
    return `${name} has no ${khz(sampleRate)}; it can be ${rates.map(khz).join(" or ")}.`;
  if (bits.length > 0 && !bits.includes(settings.bits)) return `${name} holds no 32-bit float samples.`;
  if (kbps && settings.mode === "constant" && (settings.kbps < kbps.min || settings.kbps > kbps.max))
    return `${name} takes ${kbps.min} to ${kbps.max} kbit/s, not ${settings.kbps}.`;
  if (
    quality &&
    settings.mode === "variable" &&
    (settings.quality < quality.min || settings.quality > quality.max)
  )
    return `The quality of ${name} goes from ${quality.min} to ${quality.max}.`;
  return undefined;
}

/** Settings as a video takes them: as long as it was, at its own rate, with the channels that its sound had. */
export function forVideo(settings: DeliverySettings, channels: number): DeliverySettings {
  return {
    ...settings,
    channels: channels === 1 ? "mono" : "stereo",
    trimBelowDb: null,
    silenceBefore: 0,
    silenceAfter: 0
  };
}
