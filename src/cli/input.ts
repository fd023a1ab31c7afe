import { randomUUID } from "node:crypto";
import { existsSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { FileFault, OtherFormat } from "$lib/core/formats/fault";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { decodedFile } from "$lib/server/media/decode";
import { WavFile } from "$lib/server/media/wavFile";
import { CouldNot, UsageFault, type Work } from "./outcome";

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

async function decoded(name: string, work: Work): Promise<Input> {
  const file = path.join(tmpdir(), `wring-${randomUUID()}.wav`);
  work.temporary(file);
  try {
    await decodedFile(name, file, (share) => work.progress(`decoding ${name}`, share));
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    throw new CouldNot(`"${name}" cannot be used: ${error.message}`, { cause: error });
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
export async function openInput(name: string, work: Work): Promise<Input> {
  if (!existsSync(name)) throw new CouldNot(`"${name}" is not there`);
  if (!statSync(name).isFile()) throw new CouldNot(`"${name}" is not a file`);
  try {
    return { name, path: name, layout: layoutOf(name), close: () => undefined };
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    if (error instanceof OtherFormat) return await decoded(name, work);
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
