// Files that are no WAV: what they hold, and a WAV file of it.
import { FileFault, OtherFormat } from "$lib/core/formats/fault";
import type { Findings } from "../findings";
import { WavFile } from "../wavFile";
import { decode } from "./decode";
import { probe, type ProbedSound } from "./probe";

export interface DecodeOptions {
  /** The sound track to take; the default one when left out. */
  readonly stream?: number | undefined;
  /** Whether what can be read of a cut or damaged file will do. */
  readonly partial?: boolean | undefined;
  /** What the file holds, where that has been found out already. */
  readonly sound?: ProbedSound | undefined;
  /** What is found of the samples on the way; it is finished then, not closed. */
  readonly findings?: ((sound: ProbedSound) => Findings) | undefined;
}

/** What is wrong with a WAV file; undefined for one that is right, and for other files. */
function wavFault(file: string): string | undefined {
  try {
    new WavFile(file).close();
    return undefined;
  } catch (error) {
    if (error instanceof OtherFormat) return undefined;
    if (error instanceof FileFault) return error.message;
    throw error;
  }
}

/** Whether a file is no WAV at all. @throws FileFault when it is one that cannot be used */
function isOther(file: string, partial = false): boolean {
  try {
    new WavFile(file).close();
    return false;
  } catch (error) {
    // A WAV file that is cut off becomes a whole one of what can be read of it.
    if (error instanceof OtherFormat || (partial && error instanceof FileFault)) return true;
    throw error;
  }
}

/** What a file in another format holds; undefined for a WAV file. @throws FileFault when it cannot be used */
export async function probeOther(
  file: string,
  { stream, partial }: DecodeOptions = {}
): Promise<ProbedSound | undefined> {
  return isOther(file, partial) ? probe(file, stream) : undefined;
}

/** A file in another format, as it was decoded. */
export interface DecodedFile extends ProbedSound {
  /** Hash of the WAV file, where it was known in passing. */
  readonly hash: string | undefined;
}

/** Decodes a file in another format into a WAV file at `target`; undefined for a WAV file. @throws FileFault when it cannot be used */
export async function decodedFile(
  file: string,
  target: string,
  tick: (share: number) => void,
  options: DecodeOptions = {}
): Promise<DecodedFile | undefined> {
  const sound = options.sound ?? (await probeOther(file, options));
  if (!sound) return undefined;
  const findings = options.findings?.(sound);
  const decoded = await decode(file, sound, target, tick, { partial: options.partial, findings });
  findings?.finish();
  // ffmpeg takes a WAV file as long as it is, whatever its header promises.
  const torn = decoded.torn ?? (options.partial ? wavFault(file) : undefined);
  const note = torn ? `Taken as far as it can be read: ${torn}.` : sound.note;
  return { ...sound, note, hash: decoded.hash };
}
