// Files that are no WAV: what they hold, and a WAV file of it.
import { OtherFormat } from "$lib/core/formats/fault";
import { WavFile } from "../wavFile";
import { decode } from "./decode";
import { probe, type ProbedSound } from "./probe";

/** Whether a file is no WAV at all. @throws FileFault when it is one that cannot be used */
function isOther(file: string): boolean {
  try {
    new WavFile(file).close();
    return false;
  } catch (error) {
    if (error instanceof OtherFormat) return true;
    throw error;
  }
}

/** What a file in another format holds; undefined for a WAV file. @throws FileFault when it cannot be used */
export async function probeOther(file: string, stream?: number): Promise<ProbedSound | undefined> {
  return isOther(file) ? probe(file, stream) : undefined;
}

/** Decodes a file in another format into a WAV file at `target`; undefined for a WAV file. @throws FileFault when it cannot be used */
export async function decodedFile(
  file: string,
  target: string,
  tick: (share: number) => void,
  stream?: number
): Promise<ProbedSound | undefined> {
  const sound = await probeOther(file, stream);
  if (sound) await decode(file, sound, target, tick);
  return sound;
}
