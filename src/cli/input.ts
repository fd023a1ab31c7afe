import { spawnSync } from "node:child_process";
import { randomUUID } from "node:crypto";
import { existsSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { FileFault, OtherFormat } from "$lib/core/formats/fault";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { WavFile } from "$lib/server/media/wavFile";
import { CouldNot, UsageFault, type Work } from "./outcome";

const DECODE_MS = 60 * 60 * 1000;

/** A sound file that can be read as WAV: itself, or what ffmpeg decoded of it. */
export interface Input {
  /** As it was named. */
  readonly name: string;
  /** The WAV file. */
  readonly path: string;
  readonly layout: WavLayout;
  close(): void;
}

function layoutOf(file: string): WavLayout {
  const wav = new WavFile(file);
  wav.close();
  return wav.layout;
}

function decoded(name: string, work: Work): Input {
  const file = path.join(tmpdir(), `wring-${randomUUID()}.wav`);
  work.temporary(file);
  const args = [
    "-v",
    "error",
    "-nostdin",
    "-i",
    name,
    "-map",
    "a:0",
    "-c:a",
    "pcm_f32le",
    "-rf64",
    "auto",
    file
  ];
  const run = spawnSync("ffmpeg", args, { encoding: "utf8", timeout: DECODE_MS });
  if ((run.error as NodeJS.ErrnoException | undefined)?.code === "ENOENT")
    throw new CouldNot(
      `"${name}" is not a WAV file, and ffmpeg, which reads other formats, is not installed`
    );
  if (run.status !== 0) {
    rmSync(file, { force: true });
    const why =
      run.stderr
        .trim()
        .split("\n")
        .pop()
        ?.replace(/^.*?: /, "") ?? "";
    throw new CouldNot(`"${name}" holds no sound that can be read${why ? ` (${why})` : ""}`);
  }
  return {
    name,
    path: file,
    layout: layoutOf(file),
    close() {
      rmSync(file, { force: true });
      work.kept(file);
    }
  };
}

/** Opens a file. @throws CouldNot with the reason */
export function openInput(name: string, work: Work): Input {
  if (!existsSync(name)) throw new CouldNot(`"${name}" is not there`);
  if (!statSync(name).isFile()) throw new CouldNot(`"${name}" is not a file`);
  try {
    return { name, path: name, layout: layoutOf(name), close: () => undefined };
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    if (error instanceof OtherFormat) return decoded(name, work);
    throw new CouldNot(`"${name}" cannot be used: ${error.message}`, { cause: error });
  }
}

/** Does what reads a file's sound. @throws CouldNot naming the file when its sound cannot be used */
export function reading<T>(input: Input, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    throw new CouldNot(`"${input.name}" cannot be used: ${error.message}`, { cause: error });
  }
}

/** Frames of a range of a file, [from, to). @throws CouldNot when it lies outside */
export function rangeOf(
  input: Input,
  fromSeconds: number | undefined,
  toSeconds: number | undefined
): readonly [from: number, to: number] {
  const { frames, sampleRate } = input.layout;
  if (toSeconds !== undefined && toSeconds <= (fromSeconds ?? 0))
    throw new UsageFault("--to must lie after --from");
  const from = Math.round((fromSeconds ?? 0) * sampleRate);
  const to = toSeconds === undefined ? frames : Math.round(toSeconds * sampleRate);
  if (from >= frames)
    throw new CouldNot(`"${input.name}" ends at ${(frames / sampleRate).toFixed(3)} s, before --from`);
  if (to > frames)
    throw new CouldNot(`"${input.name}" ends at ${(frames / sampleRate).toFixed(3)} s, before --to`);
  if (to <= from) throw new CouldNot(`"${input.name}" has no sample between --from and --to`);
  return [from, to];
}
