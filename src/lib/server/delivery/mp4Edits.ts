// The edit list of an MP4's sound: which of its samples are played, and when. Boxes as in ISO/IEC 14496-12.
import { closeSync, fstatSync, openSync, writeSync } from "node:fs";
import { letters, viewOf, type ReadBytes } from "$lib/core/formats/wavChunks";
import { readerOf } from "../media/readBytes";

/** A box: where it begins and ends in the file, and where what it holds does. */
interface Box {
  readonly type: string;
  readonly from: number;
  readonly to: number;
}

const MOST_EDITS_BYTES = 64;

/** The boxes between two places. */
function boxesIn(read: ReadBytes, { from, to }: Pick<Box, "from" | "to">): Box[] {
  const found: Box[] = [];
  for (let at = from; at + 8 <= to;) {
    const head = read(at, 16);
    const short = viewOf(head).getUint32(0);
    // 1: its size follows in eight bytes; 0: it reaches to the end.
    const size = short === 1 ? Number(viewOf(head).getBigUint64(8)) : short === 0 ? to - at : short;
    if (size < 8) break;
    found.push({ type: letters(head, 4), from: at + (short === 1 ? 16 : 8), to: at + size });
    at += size;
  }
  return found;
}

function boxIn(read: ReadBytes, within: Box | undefined, ...path: readonly string[]): Box | undefined {
  return path.reduce((box, type) => box && boxesIn(read, box).find((inner) => inner.type === type), within);
}

/** Ticks a second, of a movie header or a media header. */
function scaleIn(read: ReadBytes, header: Box): number {
  const bytes = read(header.from, 24);
  return viewOf(bytes).getUint32(bytes[0] === 1 ? 20 : 12);
}

/**
 * Where the sound of an MP4 begins after the picture, ffmpeg has the lead-in of its coder played as well, before it: that is cut from its list, so that
 * the sound is as long as it was given. Nothing is done where the lead-in is cut already.
 * @param frames of the lead-in
 */
export function cutLeadIn(file: string, frames: number): void {
  const fd = openSync(file, "r+");
  const read = readerOf(fd);
  try {
    const all: Box = { type: "file", from: 0, to: fstatSync(fd).size };
    const movie = boxIn(read, all, "moov");
    const header = boxIn(read, movie, "mvhd");
    const sound = boxesIn(read, movie ?? { from: 0, to: 0 }).find((track) => {
      const kind = track.type === "trak" ? boxIn(read, track, "mdia", "hdlr") : undefined;
      return kind !== undefined && letters(read(kind.from + 8, 4), 0) === "soun";
    });
    const media = boxIn(read, sound, "mdia", "mdhd");
    const list = boxIn(read, sound, "edts", "elst");
    if (!header || !media || !list) return;
    const edits = read(list.from, Math.min(MOST_EDITS_BYTES, list.to - list.from));
    const view = viewOf(edits);
    // Version 1 has durations and times of eight bytes.
    const wide = edits[0] === 1;
    const [size, step] = wide ? [8, 20] : [4, 12];
    const timeAt = (edit: number) => 8 + edit * step + size;
    const get = (at: number) => (wide ? view.getBigInt64(at) : BigInt(view.getInt32(at)));
    const set = (at: number, value: bigint) =>
      wide ? view.setBigInt64(at, value) : view.setInt32(at, Number(value));
    const late = view.getUint32(4) === 2 && get(timeAt(0)) === -1n && get(timeAt(1)) === 0n;
    if (!late) return;
    const cut = BigInt(Math.round((frames * scaleIn(read, header)) / scaleIn(read, media)));
    set(8, get(8) + cut);
    set(8 + step, get(8 + step) - cut);
    set(timeAt(1), BigInt(frames));
    writeSync(fd, edits, 0, edits.length, list.from);
  } finally {
    closeSync(fd);
  }
}
