// Whether a file ends where its sound does: what of a cut file nothing else tells, since nothing in it says how long it should be.
import { letters, viewOf, type ReadBytes } from "./wavChunks";
import { ac3Frame, adtsFrame, HEADER_BYTES, mpegFrame, type FrameLength } from "./frameLengths";

/** So much of the end is looked at: more than the longest page of Ogg (RFC 3533, section 6) and several frames of any coder. */
const END_BYTES = 1 << 17;
/** So many frames in a row are no chance. */
const FRAMES_IN_A_ROW = 3;
const ID3V1_BYTES = 128;
const OGG_HEADER_BYTES = 27;
/** The first of the letters with which its pages begin, "OggS". */
const OGG_FIRST = 79;
/** A file with more chunks before its sound is not looked through. */
const MOST_CHUNKS = 1000;

/** The last page is whole and is marked as the last of its stream: RFC 3533, section 6, header type 4. */
function oggEnds(end: Uint8Array): boolean {
  for (let at = end.length - 4; at >= 0; at--) {
    if (end[at] !== OGG_FIRST || letters(end, at) !== "OggS" || end[at + 4] !== 0) continue;
    const segments = end[at + 26] ?? Infinity;
    const table = at + OGG_HEADER_BYTES;
    if (table + segments > end.length) return false;
    const body = end.subarray(table, table + segments).reduce((sum, length) => sum + length, 0);
    return table + segments + body <= end.length && ((end[at + 5] ?? 0) & 4) !== 0;
  }
  return false;
}

/** Its chunks up to the sound lie within the file: Core Audio Format Specification 1.0, "Chunk Header"; a size of -1 goes to the end. */
function cafEnds(size: number, read: ReadBytes): boolean {
  let at = 8;
  for (let chunk = 0; chunk < MOST_CHUNKS && at + 12 <= size; chunk++) {
    const header = read(at, 12);
    const length = Number(viewOf(header).getBigInt64(4));
    if (length < 0) return true;
    at += 12 + length;
    if (letters(header, 0) === "data") break;
  }
  return at <= size;
}

/** File Properties Object of ASF, section 3.2 of its specification; from memory, held against files that ffmpeg writes. */
const ASF_PROPERTIES = [161, 220, 171, 140, 71, 169, 207, 17, 142, 228, 0, 192, 12, 32, 83, 101] as const;
/** Where it tells the file's size, and whether it is a broadcast, which tells nothing. */
const ASF_SIZE_AT = 40;
const ASF_FLAGS_AT = 88;

/** It is as long as its header says. */
function asfEnds(size: number, read: ReadBytes): boolean {
  const start = read(0, END_BYTES);
  for (let at = 0; at + ASF_FLAGS_AT + 4 <= start.length; at++) {
    if (!ASF_PROPERTIES.every((byte, i) => start[at + i] === byte)) continue;
    const told = viewOf(start);
    const broadcast = (told.getUint32(at + ASF_FLAGS_AT, true) & 1) === 1;
    return broadcast || Number(told.getBigUint64(at + ASF_SIZE_AT, true)) <= size;
  }
  return true;
}

/** Where frames that follow each other from a place on stop; the number of them. */
function followed(bytes: Uint8Array, from: number, frame: FrameLength): { at: number; count: number } {
  let at = from;
  let count = 0;
  for (;;) {
    const length = frame(bytes.subarray(at, at + HEADER_BYTES));
    if (length === undefined || at + length > bytes.length) return { at, count };
    at += length;
    count++;
  }
}

/** Behind its last whole frame no other begins. */
function framesEnd(end: Uint8Array, frame: FrameLength): boolean {
  const sound = letters(end.subarray(-ID3V1_BYTES), 0).startsWith("TAG")
    ? end.subarray(0, -ID3V1_BYTES)
    : end;
  for (let from = 0; from < sound.length; from++) {
    const { at, count } = followed(sound, from, frame);
    if (count < FRAMES_IN_A_ROW) continue;
    const rest = sound.subarray(at, at + HEADER_BYTES);
    if (rest.length === 0) return true;
    // Some bytes of a header are as good as none; else what follows are tags.
    return rest.length < HEADER_BYTES ? rest[0] !== sound[from] : frame(rest) === undefined;
  }
  return true;
}

const FRAMED = new Map<string, FrameLength>([
  ["mp3", mpegFrame],
  ["aac", adtsFrame],
  ["ac3", ac3Frame],
  ["eac3", ac3Frame]
]);

/**
 * Whether a file of a format that does not tell its length ends as it should. One that is cut exactly between two frames does; other
 * formats are taken to do.
 * @param format its name: ogg, caf, asf, mp3 (any layer), aac (ADTS), ac3 or eac3
 * @param size bytes of the file
 */
export function endsWhole(format: string, size: number, read: ReadBytes): boolean {
  if (format === "caf") return cafEnds(size, read);
  if (format === "asf") return asfEnds(size, read);
  const end = () => read(Math.max(0, size - END_BYTES), END_BYTES);
  if (format === "ogg") return oggEnds(end());
  const frame = FRAMED.get(format);
  return frame === undefined || framesEnd(end(), frame);
}
