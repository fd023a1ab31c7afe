// A video with another sound: its pictures copied bit for bit, the sound at the time at which the old one was.
import { probe, sincePicture } from "../media/decode/probe";
import { GUARD } from "../media/decode/tools";
import { cutLeadIn } from "./mp4Edits";
import { layoutOf, rawInput, runCoder } from "./feed";

const LOSSLESS = ["-c:a", "flac", "-sample_fmt", "s32", "-bits_per_raw_sample", "24"];
/** How sound is coded in each container: without loss where players of it take that. */
const CODERS: Readonly<Record<string, readonly string[]>> = {
  mov: ["-c:a", "pcm_s24le"],
  avi: ["-c:a", "pcm_s24le"],
  mkv: LOSSLESS,
  webm: ["-c:a", "libopus", "-b:a", "192k"],
  mp4: ["-c:a", "aac", "-b:a", "256k"],
  m4v: ["-c:a", "aac", "-b:a", "256k"]
};

/** By which ffmpeg's own AAC coder begins earlier than what it is given: one frame of it. */
const AAC_LEAD_FRAMES = 1024;

/** A video, and the sound in it that is replaced. */
export interface VideoFile {
  readonly file: string;
  /** The sound track; null: there is one only. */
  readonly stream: number | null;
  /** Ending of its name. */
  readonly container: string;
  readonly sampleRate: number;
}

/** Whether the sound in a container is coded with loss. */
export function videoIsLossy(container: string): boolean {
  return ["mp4", "m4v", "webm"].includes(container);
}

/** Seconds by which a sound may lie beside its place: stamps of Matroska are whole milliseconds, of which three are rounded. */
const SLACK_SECONDS = 0.002;

/**
 * Writes a video whose sound is that of a WAV file. Chapters, subtitles, timecode and tags stay.
 * @throws FileFault when it cannot be done
 */
export async function intoVideo(
  { file: video, stream, container }: VideoFile,
  wavFile: string,
  target: string,
  tick: (share: number) => void
): Promise<void> {
  const before = await probe(video, stream ?? undefined);
  // ffmpeg moves all of a file so that what begins first in it begins at 0.
  const start = before.begins - (before.told.format?.start_time ?? 0);
  const write = (at: number, said: typeof tick) =>
    writeVideo({ video, container, at }, wavFile, target, said);
  await write(start, tick);
  if (CODERS[container]?.includes("aac")) cutLeadIn(target, AAC_LEAD_FRAMES);
  if (container !== "webm") return;
  // Not every version of ffmpeg reckons with Opus's lead-in there: the file says where the sound has come to lie.
  const beside = sincePicture(await probe(target)) - sincePicture(before);
  if (Math.abs(beside) > SLACK_SECONDS) await write(start - beside, () => undefined);
}

/** @param how `at`: when the sound is to begin, in seconds from the file's beginning */
async function writeVideo(
  { video, container, at }: { readonly video: string; readonly container: string; readonly at: number },
  wavFile: string,
  target: string,
  tick: (share: number) => void
): Promise<void> {
  const layout = layoutOf(wavFile);
  // Opus has five rates of its own; 48 kHz is the one of recordings.
  const rate = container === "webm" ? ["-ar", "48000"] : [];
  const scale = ["mp4", "m4v", "mov"].includes(container)
    ? ["-movie_timescale", String(layout.sampleRate)]
    : [];
  await runCoder(
    wavFile,
    layout,
    [
      ...["-fflags", "+genpts", ...GUARD, "-i", `file:${video}`],
      ...["-itsoffset", at.toFixed(6), ...rawInput(layout)],
      ...["-map", "0:v", "-map", "1:a", "-map", "0:s?", "-c:v", "copy", "-c:s", "copy"],
      ...[...(CODERS[container] ?? LOSSLESS), ...rate, "-map_metadata", "0", "-map_chapters", "0", ...scale],
      `file:${target}`
    ],
    tick
  );
}
