// WAV and RF64 headers. A JUNK chunk of the size of a ds64 is reserved, so that a file that outgrows 4 GB becomes RF64 in place
// (EBU Tech 3306, section 3).
import { chunkBytes, writeChunks, type Chunk } from "./wavChunks";

export type OutputFormat = "int16" | "int24" | "float32";

const DS64_BYTES = 28;
const KSDATAFORMAT_TAIL = [
  0x00, 0x00, 0x00, 0x00, 0x10, 0x00, 0x80, 0x00, 0x00, 0xaa, 0x00, 0x38, 0x9b, 0x71
];

export function bytesPerSample(format: OutputFormat): number {
  return { int16: 2, int24: 3, float32: 4 }[format];
}

/** Bytes before the first sample of a file without further chunks: the same for every length, so that the header can be written last. */
export const WAV_HEADER_BYTES = 12 + 8 + DS64_BYTES + 8 + 40 + 12 + 8;

/** Bytes before the first sample. */
export function wavHeaderBytes(chunks: readonly Chunk[]): number {
  return chunks.reduce((sum, chunk) => sum + chunkBytes(chunk), WAV_HEADER_BYTES);
}

/**
 * The header for a file of `frames` frames. Mono and stereo, 16 or 24 bit integer or 32 bit float.
 * @param chunks what stands before the samples beside it
 */
export function wavHeader(
  format: OutputFormat,
  channels: number,
  sampleRate: number,
  frames: number,
  chunks: readonly Chunk[] = []
): Uint8Array {
  const sample = bytesPerSample(format);
  const data = frames * channels * sample;
  const padded = data + (data % 2);
  const before = wavHeaderBytes(chunks);
  const riff = before - 8 + padded;
  const long = riff > 0xfffffffe;
  const bytes = new Uint8Array(before);
  const v = new DataView(bytes.buffer);
  let at = 0;
  const tag = (name: string) => {
    for (const c of name) v.setUint8(at++, c.charCodeAt(0));
  };
  const u32 = (value: number) => {
    v.setUint32(at, value, true);
    at += 4;
  };
  const u16 = (value: number) => {
    v.setUint16(at, value, true);
    at += 2;
  };
  tag(long ? "RF64" : "RIFF");
  u32(long ? 0xffffffff : riff);
  tag("WAVE");
  tag(long ? "ds64" : "JUNK");
  u32(DS64_BYTES);
  if (long) {
    v.setBigUint64(at, BigInt(riff), true);
    v.setBigUint64(at + 8, BigInt(data), true);
    v.setBigUint64(at + 16, BigInt(frames), true);
  }
  at += DS64_BYTES;
  tag("fmt ");
  u32(40);
  u16(0xfffe);
  u16(channels);
  u32(sampleRate);
  u32(sampleRate * channels * sample);
  u16(channels * sample);
  u16(sample * 8);
  u16(22);
  u16(sample * 8);
  u32(channels === 1 ? 4 : channels === 2 ? 3 : 0);
  u16(format === "float32" ? 3 : 1);
  for (const b of KSDATAFORMAT_TAIL) v.setUint8(at++, b);
  tag("fact");
  u32(4);
  u32(long ? 0xffffffff : frames);
  const further = writeChunks(chunks);
  bytes.set(further, at);
  at += further.length;
  tag("data");
  u32(long ? 0xffffffff : data);
  return bytes;
}
