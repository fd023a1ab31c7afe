// Samples of a WAV file on their way into a coder.
import { createReadStream } from "node:fs";
import type { ChildProcess } from "node:child_process";
import { pipeline } from "node:stream/promises";
import { FileFault } from "$lib/core/formats/fault";
import { WavFile } from "../media/wavFile";
import { ended, lastComplaint, RAW, startCoder } from "../media/decode/tools";
import type { WavLayout } from "$lib/core/formats/wavReader";

const CODE_MS = 4 * 3600 * 1000;
const MISSING =
  "ffmpeg, which writes all formats but WAV, is not installed on the server (on Debian: apt install ffmpeg)";

/** Arguments of the input through which samples of a WAV file come. */
export function rawInput({ kind, sampleRate, channels }: WavLayout): string[] {
  const raw = RAW[kind as keyof typeof RAW];
  return [
    "-protocol_whitelist",
    "file,pipe",
    "-f",
    raw,
    "-ar",
    String(sampleRate),
    "-ac",
    String(channels),
    "-i",
    "pipe:0"
  ];
}

function feed(
  child: ChildProcess,
  file: string,
  layout: WavLayout,
  tick: (share: number) => void
): Promise<void> {
  const bytes = layout.frames * layout.bytesPerFrame;
  const { dataOffset: start } = layout;
  let sent = 0;
  const samples = createReadStream(file, { start, end: start + bytes - 1, highWaterMark: 1 << 18 });
  samples.on("data", (chunk) => tick((sent += chunk.length) / bytes));
  // When the coder ends before it has taken all, its exit says why.
  return child.stdin ? pipeline(samples, child.stdin).catch(() => undefined) : Promise.resolve();
}

/** How a WAV file is made. */
export function layoutOf(file: string): WavLayout {
  const wav = new WavFile(file);
  wav.close();
  return wav.layout;
}

/**
 * Runs ffmpeg on the samples of a WAV file. They go through a pipe: when the thread that feeds it ends, so does ffmpeg.
 * @throws FileFault when ffmpeg is missing, or cannot do it
 */
export async function runCoder(
  file: string,
  layout: WavLayout,
  args: readonly string[],
  tick: (share: number) => void
): Promise<void> {
  const child = startCoder(["-v", "error", "-nostdin", "-y", "-threads", "1", ...args]);
  const end = ended(child, CODE_MS, MISSING);
  const fed = feed(child, file, layout, tick);
  const { code, complaint } = await end;
  await fed;
  if (code !== 0) throw new FileFault(`ffmpeg could not write it (${lastComplaint(complaint)})`);
}
