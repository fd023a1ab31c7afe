// A small copy of a video's picture that every browser shows and finds its way in: for videos whose coding browsers do not know.
import { createWriteStream, rmSync } from "node:fs";
import path from "node:path";
import type { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { FileFault } from "$lib/core/formats/fault";
import { ended, lastComplaint, startCoder, startTool } from "./decode/tools";

const MAKE_MS = 4 * 3600 * 1000;
/** Pixels across at most: it is seen at less. */
const WIDTH = 640;
/** Every so many pictures one is whole: that many at most are decoded for a jump. */
const WHOLE_EVERY = 12;
/** Bytes of a second at most, more than was seen of any test picture. */
export const PICTURE_BYTES_PER_SECOND = 400_000;

/**
 * Makes it of the first moving picture of a file: it begins at its first picture, and every picture has its time (-vsync 0).
 * It comes through a pipe, so that ffmpeg ends when the thread does that takes it, and is then written anew with its index at the front.
 * @param scratch folder for what lies between
 * @param seconds length of the file, for the progress
 * @throws FileFault when ffmpeg is missing, or cannot do it
 */
export async function makePicture(
  file: string,
  target: string,
  scratch: string,
  seconds: number,
  tick: (share: number) => void
): Promise<void> {
  const raw = path.join(scratch, "picture.part.mp4");
  const child = startTool(
    "ffmpeg",
    file,
    ["-v", "error", "-nostdin", "-threads", "2", "-progress", "pipe:3"],
    [
      ...["-map", "0:V:0", "-an", "-sn", "-dn", "-map_chapters", "-1", "-vsync", "0"],
      ...["-vf", `setpts=PTS-STARTPTS,scale='min(${WIDTH},iw)':-2`],
      ...["-c:v", "libx264", "-preset", "ultrafast", "-crf", "28", "-g", String(WHOLE_EVERY), "-bf", "0"],
      ...["-pix_fmt", "yuv420p", "-threads", "2"],
      ...["-f", "mp4", "-movflags", "frag_keyframe+empty_moov", "pipe:1"]
    ],
    { told: true }
  );
  const end = ended(child, MAKE_MS);
  const told = child.stdio[3] as Readable | null | undefined;
  told?.on("data", (data: Buffer) => {
    const times = [...data.toString("latin1").matchAll(/out_time_us=(\d+)/g)];
    const last = times.at(-1)?.[1];
    if (last) tick(Math.min(1, Number(last) / 1e6 / Math.max(0.1, seconds)));
  });
  // When it ends early its exit says why.
  const taken = child.stdout ? pipeline(child.stdout, createWriteStream(raw)) : Promise.resolve();
  const [{ code, complaint }] = await Promise.all([end, taken]);
  if (code !== 0) throw new FileFault(`ffmpeg cannot read its picture (${lastComplaint(complaint)})`);
  const fast = startCoder([
    ...["-v", "error", "-nostdin", "-y", "-i", `file:${raw}`],
    ...["-c", "copy", "-movflags", "+faststart", `file:${target}`]
  ]);
  fast.stdin?.end();
  const last = await ended(fast, MAKE_MS);
  rmSync(raw, { force: true });
  if (last.code !== 0) throw new FileFault(`ffmpeg could not write it (${lastComplaint(last.complaint)})`);
}
