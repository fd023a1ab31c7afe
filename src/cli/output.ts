import { existsSync, mkdirSync, realpathSync, renameSync, rmSync } from "node:fs";
import path from "node:path";
import type { OutputFormat } from "$lib/core/formats/wavWriter";
import type { SampleKind } from "$lib/core/formats/wavReader";
import { WavWriter } from "$lib/server/media/wavFile";
import { CouldNot, UsageFault, type Work } from "./outcome";

const FORMATS: Readonly<Record<string, OutputFormat>> = { "16": "int16", "24": "int24", "32f": "float32" };

/** The format of --bits; without it, that of the source. */
export function formatOf(bits: string | undefined, kind: SampleKind): OutputFormat {
  if (bits === undefined)
    return kind === "int16" || kind === "uint8" ? "int16" : kind === "int24" ? "int24" : "float32";
  const format = FORMATS[bits];
  if (!format) throw new UsageFault(`--bits is 16, 24 or 32f, not "${bits}"`);
  return format;
}

function samePlace(a: string, b: string): boolean {
  return existsSync(a) && existsSync(b) && realpathSync(a) === realpathSync(b);
}

/**
 * Writes a WAV file: under another name until it is finished, so that no partial file is ever left.
 * @throws CouldNot when it would take the place of the source, or its folder is missing
 */
export function writeWav(
  target: string,
  source: string,
  make: (part: string) => WavWriter,
  fill: (writer: WavWriter) => void,
  work: Work
): void {
  if (samePlace(target, source))
    throw new CouldNot(`"${target}" is the source itself; sources are never overwritten`);
  if (!existsSync(path.dirname(path.resolve(target))))
    throw new CouldNot(`The folder of "${target}" is not there`);
  const part = `${target}.${process.pid}.part`;
  work.temporary(part);
  rmSync(part, { force: true });
  let writer: WavWriter | undefined;
  try {
    writer = make(part);
    fill(writer);
    writer.finish();
    writer = undefined;
    renameSync(part, target);
    work.kept(part);
  } catch (error) {
    writer?.abandon();
    rmSync(part, { force: true });
    throw error;
  }
}

/** Makes the folder of -o. */
export function makeFolder(folder: string): void {
  try {
    mkdirSync(folder, { recursive: true });
  } catch {
    throw new CouldNot(`The folder "${folder}" cannot be made`);
  }
}

/** Names of the files that are written for others into a folder. @throws CouldNot when two would be the same */
export function outputs(files: readonly string[], folder: string): string[] {
  const names = files.map((file) => path.join(folder, `${path.basename(file).replace(/\.[^.]+$/, "")}.wav`));
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice) throw new CouldNot(`Two of the files would be written to "${twice}"`);
  return names;
}
