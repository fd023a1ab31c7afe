// WAV, RF64 and BW64 headers: Microsoft/IBM RIFF (1991), WAVE_FORMAT_EXTENSIBLE, EBU Tech 3306 (RF64), ITU-R BS.2088 (BW64).
import { FileFault, OtherFormat } from "./fault";
import { chunksOf, letters, viewOf, type ReadBytes } from "./wavChunks";

export type SampleKind = "uint8" | "int16" | "int24" | "int32" | "float32" | "float64";

/** Where the samples of a WAV file lie and how they are written. */
export interface WavLayout {
  readonly sampleRate: number;
  readonly channels: number;
  readonly kind: SampleKind;
  readonly bytesPerFrame: number;
  readonly dataOffset: number;
  readonly frames: number;
}

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;
const UNKNOWN_SIZE = 0xffffffff;
const MAX_CHUNKS = 10000;
export const MIN_RATE = 8000;
export const MAX_RATE = 384000;
export const MAX_CHANNELS = 8;

function sampleKind(tag: number, bits: number): SampleKind {
  if (tag === FLOAT && bits === 32) return "float32";
  if (tag === FLOAT && bits === 64) return "float64";
  if (tag === PCM && bits === 8) return "uint8";
  if (tag === PCM && (bits === 16 || bits === 24 || bits === 32)) return `int${bits}`;
  if (tag === PCM || tag === FLOAT)
    throw new FileFault(`its samples have ${bits} bits, which is not a WAV sample size that can be read`);
  throw new OtherFormat(
    `its WAV coding (format ${tag}) is compressed or unknown; only PCM and float can be read`
  );
}

interface Format {
  readonly sampleRate: number;
  readonly channels: number;
  readonly kind: SampleKind;
  readonly bytesPerFrame: number;
}

function readFormat(bytes: Uint8Array): Format {
  if (bytes.length < 16) throw new FileFault("it is truncated: its format chunk is incomplete");
  const v = viewOf(bytes);
  let tag = v.getUint16(0, true);
  const channels = v.getUint16(2, true);
  const sampleRate = v.getUint32(4, true);
  const align = v.getUint16(12, true);
  const bits = v.getUint16(14, true);
  if (tag === EXTENSIBLE && bytes.length >= 26) tag = v.getUint16(24, true);
  if (channels === 0) throw new FileFault("its header says that it has no channels");
  if (channels > MAX_CHANNELS)
    throw new FileFault(`it has ${channels} channels; up to ${MAX_CHANNELS} can be used`);
  if (sampleRate < MIN_RATE || sampleRate > MAX_RATE)
    throw new FileFault(`its sample rate of ${sampleRate} Hz lies outside 8 to 384 kHz`);
  const kind = sampleKind(tag, bits);
  const bytesPerFrame = (channels * bits) / 8;
  if (align !== bytesPerFrame)
    throw new FileFault(
      `its header contradicts itself (${channels} channels of ${bits} bits, but ${align} bytes a frame)`
    );
  return { sampleRate, channels, kind, bytesPerFrame };
}

/**
 * Finds format and samples of a WAV file.
 * @param size bytes of the whole file
 * @throws FileFault when it is not a WAV file that can be read
 */
export function readWavLayout(read: ReadBytes, size: number): WavLayout {
  const head = read(0, 4);
  if (head.length === 4 && letters(head, 0) === "riff") return readWave64(read, size);
  let format: Format | undefined;
  for (const { id, at, length } of chunksOf(read, size)) {
    if (id === "fmt ") format = readFormat(read(at, Math.min(length ?? 0, 40)));
    if (id !== "data") continue;
    if (!format) throw new FileFault("its format chunk is missing");
    return dataLayout(format, at, length, size);
  }
  throw new FileFault(
    format ? "it is truncated: it has no samples" : "it is truncated: its header is incomplete"
  );
}

/** What follows the four letters of "riff" in the name of a Wave64 file, and those of "fmt " and "data" in the names of its chunks. */
const WAVE64_RIFF = "2e91cf11a5d628db04c10000";
const WAVE64_CHUNK = "f3acd3118cd100c04f8edb8a";

/** A name of 16 bytes: four letters, if the rest is as it must be. */
function wave64Name(bytes: Uint8Array, rest: string): string {
  const found = Array.from(bytes.subarray(4, 16), (b) => b.toString(16).padStart(2, "0")).join("");
  return found === rest ? letters(bytes, 0) : "";
}

/** Wave64: chunks with names of 16 bytes and sizes of 64 bits, their own 24 bytes included; each begins at a multiple of eight. */
function readWave64(read: ReadBytes, size: number): WavLayout {
  const head = read(0, 40);
  if (head.length < 40 || wave64Name(head, WAVE64_RIFF) !== "riff" || letters(head, 24) !== "wave")
    throw new OtherFormat("it is not a WAV audio file");
  let format: Format | undefined;
  for (let n = 0, at = 40; at + 24 <= size && n < MAX_CHUNKS; n++) {
    const header = read(at, 24);
    const length = Number(viewOf(header).getBigUint64(16, true));
    const name = wave64Name(header, WAVE64_CHUNK);
    if (length < 24) break;
    if (name === "fmt ") format = readFormat(read(at + 24, Math.min(length - 24, 40)));
    if (name === "data") {
      if (!format) throw new FileFault("its format chunk is missing");
      return dataLayout(format, at + 24, length - 24, size);
    }
    at += Math.ceil(length / 8) * 8;
  }
  throw new FileFault(
    format ? "it is truncated: it has no samples" : "it is truncated: its header is incomplete"
  );
}

function dataLayout(format: Format, dataOffset: number, said: number | undefined, size: number): WavLayout {
  const there = size - dataOffset;
  // Recorders that were cut off leave 0 or 0xFFFFFFFF: then the samples reach to the end of the file.
  const open = said === undefined || said === 0 || said === UNKNOWN_SIZE;
  const bytes = open ? there : said;
  if (bytes > there)
    throw new FileFault(
      `it is truncated: its header promises ${bytes} bytes of sound, but only ${Math.max(0, there)} are there`
    );
  const frames = Math.floor(bytes / format.bytesPerFrame);
  if (frames === 0) throw new FileFault("it holds no sound");
  return { ...format, dataOffset, frames };
}
