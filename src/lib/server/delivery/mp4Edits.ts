// The edit list of an MP4's sound: which of its samples are played, and when. Boxes as in ISO/IEC 14496-12.
import { closeSync, fstatSync, openSync, readSync, writeSync } from "node:fs";

/** A box: where it begins and ends in the file, and where what it holds does. */
interface Box {
  readonly type: string;
  readonly from: number;
  readonly to: number;
}

const MOST_EDITS_BYTES = 64;

function bytesOf(fd: number, from: number, length: number): Buffer {
  const bytes = Buffer.alloc(length);
  readSync(fd, bytes, 0, length, from);
  return bytes;
}

/** The boxes between two places. */
function boxesIn(fd: number, { from, to }: Pick<Box, "from" | "to">): Box[] {
  const found: Box[] = [];
  for (let at = from; at + 8 <= to;) {
    const head = bytesOf(fd, at, 16);
    const short = head.readUInt32BE(0);
    // 1: its size follows in eight bytes; 0: it reaches to the end.
    const size = short === 1 ? Number(head.readBigUInt64BE(8)) : short === 0 ? to - at : short;
    if (size < 8) break;
    found.push({ type: head.toString("latin1", 4, 8), from: at + (short === 1 ? 16 : 8), to: at + size });
    at += size;
  }
  return found;
}

function boxIn(fd: number, within: Box | undefined, ...path: readonly string[]): Box | undefined {
  return path.reduce((box, type) => box && boxesIn(fd, box).find((inner) => inner.type === type), within);
}

/** Ticks a second, of a movie header or a media header. */
function scaleIn(fd: number, header: Box): number {
  const bytes = bytesOf(fd, header.from, 24);
  return bytes.readUInt32BE(bytes[0] === 1 ? 20 : 12);
}

/**
 * Where the sound of an MP4 begins after the picture, ffmpeg has the lead-in of its coder played as well, before it: that is cut from its list, so that
 * the sound is as long as it was given. Nothing is done where the lead-in is cut already.
 * @param frames of the lead-in
 */
export function cutLeadIn(file: string, frames: number): void {
  const fd = openSync(file, "r+");
  try {
    const all: Box = { type: "file", from: 0, to: fstatSync(fd).size };
    const movie = boxIn(fd, all, "moov");
    const header = boxIn(fd, movie, "mvhd");
    const sound = boxesIn(fd, movie ?? { from: 0, to: 0 }).find((track) => {
      const kind = track.type === "trak" ? boxIn(fd, track, "mdia", "hdlr") : undefined;
      return kind !== undefined && bytesOf(fd, kind.from + 8, 4).toString("latin1") === "soun";
    });
    const media = boxIn(fd, sound, "mdia", "mdhd");
    const list = boxIn(fd, sound, "edts", "elst");
    if (!header || !media || !list) return;
    const edits = bytesOf(fd, list.from, Math.min(MOST_EDITS_BYTES, list.to - list.from));
    // Version 1 has durations and times of eight bytes.
    const wide = edits[0] === 1;
    const [size, step] = wide ? [8, 20] : [4, 12];
    const timeAt = (edit: number) => 8 + edit * step + size;
    const read = (at: number) => (wide ? edits.readBigInt64BE(at) : BigInt(edits.readInt32BE(at)));
    const write = (at: number, value: bigint) =>
      wide ? edits.writeBigInt64BE(value, at) : edits.writeInt32BE(Number(value), at);
    const late = edits.readUInt32BE(4) === 2 && read(timeAt(0)) === -1n && read(timeAt(1)) === 0n;
    if (!late) return;
    const cut = BigInt(Math.round((frames * scaleIn(fd, header)) / scaleIn(fd, media)));
    write(8, read(8) + cut);
    write(8 + step, read(8 + step) - cut);
    write(timeAt(1), BigInt(frames));
    writeSync(fd, edits, 0, edits.length, list.from);
  } finally {
    closeSync(fd);
  }
}
