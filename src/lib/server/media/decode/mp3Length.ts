// How many samples of an MP3 file are its coder's own: the tag in its first frame tells (the "Info tag" that coders write since the delay
// became known: Xing header, then a version of nine letters, with delay and padding as two times twelve bits at its 21st byte).
import { closeSync, openSync } from "node:fs";
import { readerOf } from "../readBytes";

/** From the first frame on, as far as a tag can reach. */
const SEEN_BYTES = 4096;
const VERSION_LETTERS = /^(LAME|Lav[cf])/;

/** Length of the ID3v2 tag at the start: its size is written in four times seven bits (ID3 tag version 2.4.0, section 3.1). */
function id3Bytes(bytes: Buffer): number {
  if (bytes.toString("latin1", 0, 3) !== "ID3") return 0;
  return bytes.subarray(6, 10).reduce((size, seven) => size * 128 + (seven & 127), 0) + 10;
}

/** Where the version stands behind a Xing header: its flags say which fields lie between. */
function versionAt(bytes: Buffer, tag: number): number {
  const flags = bytes.readUInt32BE(tag + 4);
  return tag + 8 + (flags & 1 ? 4 : 0) + (flags & 2 ? 4 : 0) + (flags & 4 ? 100 : 0) + (flags & 8 ? 4 : 0);
}

/** Samples that a coder put before and behind the sound of an MP3 file, together; undefined where the file does not tell. */
export function mp3Filling(file: string): number | undefined {
  const fd = openSync(file, "r");
  try {
    const bytesAt = readerOf(fd);
    const read = (from: number, length: number) => Buffer.from(bytesAt(from, length));
    const bytes = read(id3Bytes(read(0, 10)), SEEN_BYTES);
    const tag = ["Info", "Xing"].map((name) => bytes.indexOf(name, 0, "latin1")).find((at) => at > 0);
    if (tag === undefined || tag + 8 > bytes.length) return undefined;
    const at = versionAt(bytes, tag);
    if (at + 24 > bytes.length || !VERSION_LETTERS.test(bytes.toString("latin1", at, at + 4)))
      return undefined;
    const both = bytes.readUIntBE(at + 21, 3);
    return (both >> 12) + (both & 0xfff);
  } finally {
    closeSync(fd);
  }
}
