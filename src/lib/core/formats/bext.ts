// The broadcast extension of WAV files: EBU Tech 3285 version 2 (2011); its loudness fields and coding history (EBU R 98) included.
import { viewOf, type Chunk } from "./wavChunks";

/** Loudness of the whole file; undefined: not known, or silence. LUFS, LU, dBTP. */
export interface BextLoudness {
  readonly integrated: number | undefined;
  readonly range: number | undefined;
  readonly maxTruePeak: number | undefined;
  readonly maxMomentary: number | undefined;
  readonly maxShortTerm: number | undefined;
}

export interface BroadcastExtension {
  readonly description: string;
  readonly originator: string;
  readonly originatorReference: string;
  /** yyyy-mm-dd, or empty. */
  readonly date: string;
  /** hh:mm:ss, or empty. */
  readonly time: string;
  /** Frames between midnight and the first sample, at the file's rate. */
  readonly timeReference: number;
  readonly loudness: BextLoudness | null;
  /** One line for each coding, each ended by CR LF. */
  readonly codingHistory: string;
}

const FIXED_BYTES = 602;
const PLACES = {
  description: [0, 256],
  originator: [256, 32],
  originatorReference: [288, 32],
  date: [320, 10],
  time: [330, 8]
} as const;
const REFERENCE_AT = 338;
const VERSION_AT = 346;
const LOUDNESS_AT = 412;
/** What the standard writes for a value that is not known. */
const NO_VALUE = 0x7fff;
const LOUDNESS_FIELDS = ["integrated", "range", "maxTruePeak", "maxMomentary", "maxShortTerm"] as const;

function readText(bytes: Uint8Array, at: number, length: number): string {
  const field = bytes.subarray(at, Math.min(bytes.length, at + length));
  const end = field.indexOf(0);
  return new TextDecoder().decode(end < 0 ? field : field.subarray(0, end)).trim();
}

/** As many whole characters as fit. */
function writeText(bytes: Uint8Array, text: string, at: number, length: number): void {
  new TextEncoder().encodeInto(text, bytes.subarray(at, at + length));
}

/** Reads the content of a `bext` chunk; undefined when it is too short to be one. */
export function readBext(bytes: Uint8Array): BroadcastExtension | undefined {
  if (bytes.length < VERSION_AT + 2) return undefined;
  const view = viewOf(bytes);
  const text = (name: keyof typeof PLACES) => {
    const [at, length] = PLACES[name];
    return readText(bytes, at, length);
  };
  const version = view.getUint16(VERSION_AT, true);
  const value = (i: number) => {
    const raw = view.getInt16(LOUDNESS_AT + 2 * i, true);
    return raw === NO_VALUE ? undefined : raw / 100;
  };
  const loudness: BextLoudness | null =
    version >= 2 && bytes.length >= LOUDNESS_AT + 10
      ? {
          integrated: value(0),
          range: value(1),
          maxTruePeak: value(2),
          maxMomentary: value(3),
          maxShortTerm: value(4)
        }
      : null;
  return {
    description: text("description"),
    originator: text("originator"),
    originatorReference: text("originatorReference"),
    date: text("date"),
    time: text("time"),
    timeReference: Number(view.getBigUint64(REFERENCE_AT, true)),
    loudness,
    codingHistory: readText(bytes, FIXED_BYTES, Math.max(0, bytes.length - FIXED_BYTES))
  };
}

/** The `bext` chunk, version 2. Its length depends on the coding history alone. */
export function bextChunk(bext: BroadcastExtension): Chunk {
  const history = new TextEncoder().encode(bext.codingHistory);
  const body = new Uint8Array(FIXED_BYTES + history.length);
  const view = viewOf(body);
  for (const [name, [at, length]] of Object.entries(PLACES))
    writeText(body, bext[name as keyof typeof PLACES], at, length);
  view.setBigUint64(REFERENCE_AT, BigInt(bext.timeReference), true);
  view.setUint16(VERSION_AT, 2, true);
  LOUDNESS_FIELDS.forEach((field, i) => {
    const value = bext.loudness?.[field];
    const raw = value === undefined ? NO_VALUE : Math.round(Math.max(-327.67, Math.min(327.66, value)) * 100);
    view.setInt16(LOUDNESS_AT + 2 * i, raw, true);
  });
  body.set(history, FIXED_BYTES);
  return { id: "bext", body };
}
