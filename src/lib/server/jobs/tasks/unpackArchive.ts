import { writeFileSync } from "node:fs";
import path from "node:path";
import { unpack } from "../../archive/read";
import { WavFile } from "../../media/wavFile";
import type { Tick, UnpackResult, UnpackTask } from "./task";

/** Where the task leaves the project: too long for a message between threads. */
export const UNPACKED_PROJECT = "project.json";

export async function unpackArchive({ file, scratch }: UnpackTask, tick: Tick): Promise<UnpackResult> {
  const { project, audio, sources } = await unpack(file, scratch, tick);
  writeFileSync(path.join(scratch, UNPACKED_PROJECT), JSON.stringify(project));
  const recordings = audio.map((hash) => {
    const wav = new WavFile(path.join(scratch, `${hash}.wav`));
    wav.close();
    const { sampleRate, channels, frames } = wav.layout;
    return { hash, sampleRate, channels, frames };
  });
  return { recordings, sources };
}
