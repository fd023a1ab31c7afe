// A video with another sound: its pictures copied bit for bit, the sound at the time at which the old one was.
import { probe } from "../media/decode/probe";
import { GUARD } from "../media/decode/tools";
import { layoutOf, rawInput, runCoder } from "./feed";

const LOSSLESS = ["-c:a", "flac", "-sample_fmt", "s32", "-bits_per_raw_sample", "24"];
/** How sound is coded in each container: without loss where players of it take that. */
const CODERS: Readonly<Record<string, readonly string[]>> = {
  mov: ["-c:a", "pcm_s24le"],
  mkv: LOSSLESS,
  webm: ["-c:a", "libopus", "-b:a", "192k"],
  mp4: ["-c:a", "aac", "-b:a", "256k"],
  m4v: ["-c:a", "aac", "-b:a", "256k"]
};

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
  const { told, stream: first } = await probe(video, stream ?? undefined);
  const replaced = told.streams.find((s) => s.index === first);
  // A negative start is a coder's lead-in, which is cut when it is decoded.
  const start = Math.max(0, replaced?.start_time ?? 0);
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
      ...[...GUARD, "-i", `file:${video}`, "-itsoffset", start.toFixed(6), ...rawInput(layout)],
      ...["-map", "0:v", "-map", "1:a", "-map", "0:s?", "-c:v", "copy", "-c:s", "copy"],
      ...[...(CODERS[container] ?? LOSSLESS), ...rate, "-map_metadata", "0", "-map_chapters", "0", ...scale],
      `file:${target}`
    ],
    tick
  );
}
