// What files can be delivered as, and what each can hold.
import type { OutputFormat } from "../formats/wavWriter";

export const DELIVERY_RATES = [44100, 48000, 88200, 96000] as const;
export type DeliveryRate = (typeof DELIVERY_RATES)[number];

export type CodingName = "wav" | "flac" | "mp3" | "opus" | "vorbis" | "aac";

export interface Coding {
  readonly name: string;
  /** Of its files, without the dot. */
  readonly extension: string;
  readonly mediaType: string;
  readonly rates: readonly DeliveryRate[];
  /** Sample formats to choose among; empty where the coder has none of its own. */
  readonly bits: readonly OutputFormat[];
  /** Rates of bits, in thousands a second; null: it has none. */
  readonly kbps: { readonly min: number; readonly max: number; readonly standard: number } | null;
  /** Steps of a quality that lets the rate of bits vary; null: it has none. */
  readonly quality: {
    readonly min: number;
    readonly max: number;
    readonly standard: number;
    readonly best: "min" | "max";
  } | null;
  /** Whether what is decoded differs from what was coded. */
  readonly lossy: boolean;
  /** Whether it holds sections: as cue points in WAV, as chapters in the others. */
  readonly sections: boolean;
  readonly cover: boolean;
}

const ALL = DELIVERY_RATES;
/** MPEG-1 layer III has no rate above 48 kHz (ISO/IEC 11172-3). */
const LOW = [44100, 48000] as const;

export const CODINGS: Readonly<Record<CodingName, Coding>> = {
  wav: {
    name: "WAV (broadcast)",
    extension: "wav",
    mediaType: "audio/wav",
    rates: ALL,
    bits: ["int16", "int24", "float32"],
    kbps: null,
    quality: null,
    lossy: false,
    sections: true,
    cover: false
  },
  flac: {
    name: "FLAC",
    extension: "flac",
    mediaType: "audio/flac",
    rates: ALL,
    bits: ["int16", "int24"],
    kbps: null,
    quality: null,
    lossy: false,
    sections: true,
    cover: true
  },
  mp3: {
    name: "MP3",
    extension: "mp3",
    mediaType: "audio/mpeg",
    rates: LOW,
    bits: [],
    kbps: { min: 64, max: 320, standard: 192 },
    quality: { min: 0, max: 9, standard: 2, best: "min" },
    lossy: true,
    sections: true,
    cover: true
  },
  opus: {
    name: "Opus",
    extension: "opus",
    mediaType: "audio/ogg",
    // RFC 7845: an Opus stream is always decoded at 48 kHz.
    rates: [48000],
    bits: [],
    kbps: { min: 24, max: 256, standard: 96 },
    quality: null,
    lossy: true,
    sections: true,
    cover: true
  },
  vorbis: {
    name: "Ogg Vorbis",
    extension: "ogg",
    mediaType: "audio/ogg",
    rates: ALL,
    bits: [],
    kbps: null,
    quality: { min: 0, max: 10, standard: 5, best: "max" },
    lossy: true,
    sections: true,
    cover: true
  },
  aac: {
    name: "M4A (AAC)",
    extension: "m4a",
    mediaType: "audio/mp4",
    rates: ALL,
    bits: [],
    kbps: { min: 64, max: 320, standard: 160 },
    quality: null,
    lossy: true,
    sections: true,
    cover: true
  }
};
