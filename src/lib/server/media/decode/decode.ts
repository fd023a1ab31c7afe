// A file of any format becomes a WAV file, by ffmpeg, at its own rate and with its own channels.
import { closeSync, fstatSync, ftruncateSync, openSync, rmSync, writeSync } from "node:fs";
import { setImmediate, setTimeout } from "node:timers/promises";
import { FileFault } from "$lib/core/formats/fault";
import { endsWhole } from "$lib/core/formats/fileEnd";
import { bytesPerSample, wavHeader } from "$lib/core/formats/wavWriter";
import type { Findings } from "../findings";
import { readerOf } from "../readBytes";
import { Behind } from "./behind";
import type { ProbedSound } from "./probe";
import { Syncing } from "./syncing";
import { ended, lastComplaint, RAW, startTool } from "./tools";

const DECODE_MS = 4 * 3600 * 1000;
/** How long to wait where ffmpeg has not written more yet. */
const WAIT_MS = 4;
/** What a file says of its length may be off by so much. */
const SLACK_SECONDS = 0.2;

/** What was decoded. */
export interface Decoded {
  readonly frames: number;
  /** Why it is not all that the file should hold; null: it is. */
  readonly torn: string | null;
  /** Hash of the WAV file; undefined where its length was not known before, so that it has to be read for that. */
  readonly hash: string | undefined;
}

export interface DecodeWays {
  /** Whether what can be read of a cut or damaged file will do. */
  readonly partial?: boolean | undefined;
  /** What is found of the samples, as soon as they are there. */
  readonly findings?: Findings | undefined;
}

/**
 * Decodes the sound of a file into a WAV file that is not there yet. ffmpeg writes it, behind a header of ours; what it has written is
 * examined and hashed meanwhile, so that both cores have work. ffmpeg ends when the thread does.
 * @throws FileFault when it cannot be read, or ends before it should; nothing is left then
 */
export async function decode(
  file: string,
  sound: ProbedSound,
  target: string,
  tick: (share: number) => void,
  { partial = false, findings }: DecodeWays = {}
): Promise<Decoded> {
  const { channels, sampleRate, stream, kept, frames, cut } = sound;
  const foretold = wavHeader(kept, channels, sampleRate, frames ?? 0);
  const fd = openSync(target, "wx+");
  const syncing = new Syncing(fd);
  let behind: Behind | undefined;
  let whole = false;
  try {
    writeSync(fd, foretold);
    behind = new Behind(target, foretold, kept, channels, cut ?? Infinity, findings);
    const { code, complaint } = await written(fd, file, [stream, RAW[kept]], behind, (bytes) => {
      syncing.grown(bytes);
      if (frames) tick(Math.min(1, (behind?.frames ?? 0) / frames));
    });
    if (complaint.includes("No space left on device"))
      throw Object.assign(new Error("ffmpeg found no room to write."), { code: "ENOSPC" });
    const made = behind.frames;
    const seconds = (n: number) => `${(n / sampleRate).toFixed(1)} s`;
    if (made === 0) throw new FileFault("it holds no sound that can be read");
    const torn =
      frames && made < frames - SLACK_SECONDS * sampleRate
        ? `it is cut off: ${seconds(made)} of ${seconds(frames)} can be read`
        : code !== 0
          ? `it is damaged after ${seconds(made)}${reason(complaint)}`
          : endIsMissing(file, sound, complaint)
            ? `it is cut off: ${seconds(made)} can be read, its end is missing`
            : null;
    if (torn && !partial) throw new FileFault(torn);
    const bytes = made * channels * bytesPerSample(kept);
    const padding = new Uint8Array(bytes % 2);
    ftruncateSync(fd, foretold.length + bytes + padding.length);
    if (made !== frames) {
      const header = wavHeader(kept, channels, sampleRate, made);
      writeSync(fd, header, 0, header.length, 0);
    }
    await syncing.finish();
    whole = true;
    return { frames: made, torn, hash: made === frames ? behind.digest(padding) : undefined };
  } finally {
    behind?.close();
    await syncing.settled();
    closeSync(fd);
    if (!whole) rmSync(target, { force: true });
  }
}

/** Has ffmpeg write samples into an open file, which are taken from behind; all of them when it has ended. */
async function written(
  fd: number,
  file: string,
  [stream, raw]: readonly [number, string],
  behind: Behind,
  grown: (bytes: number) => void
): ReturnType<typeof ended> {
  const child = startTool(
    "ffmpeg",
    file,
    ["-v", "error", "-nostdin", "-threads", "1"],
    ["-map", `0:${stream}`, "-f", raw, "-c:a", `pcm_${raw}`, "pipe:1"],
    { into: fd }
  );
  let open = true;
  const over = () => (open = false);
  const end = ended(child, DECODE_MS);
  end.then(over, over);
  try {
    while (open) {
      const { size } = fstatSync(fd);
      grown(size);
      if (behind.block(size)) await setImmediate();
      else await setTimeout(WAIT_MS);
    }
    const outcome = await end;
    behind.rest(fstatSync(fd).size);
    return outcome;
  } catch (error) {
    child.kill("SIGKILL");
    await end.catch(() => undefined);
    throw error;
  }
}

/** Whether a file that does not tell how long it should be, or tells what it has become, breaks off. */
function endIsMissing(file: string, { format, codec, frames }: ProbedSound, complaint: string): boolean {
  if (frames !== undefined && format !== "ogg") return false;
  // A FLAC file tells its frames' lengths nowhere: only the decoder finds that one is not whole.
  if (codec === "flac" && complaint.includes("Error while decoding")) return true;
  const fd = openSync(file, "r");
  try {
    return !endsWhole(format, fstatSync(fd).size, readerOf(fd));
  } finally {
    closeSync(fd);
  }
}

function reason(complaint: string): string {
  const text = lastComplaint(complaint);
  return text ? ` (${text})` : "";
}
