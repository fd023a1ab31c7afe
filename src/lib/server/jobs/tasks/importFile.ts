import path from "node:path";
import { decodedFile } from "../../media/decode";
import { aboutFile } from "../../media/about/about";
import type { Findings } from "../../media/findings";
import { findingsOf, ingest } from "../../media/ingest";
import type { ImportResult, ImportTask, Tick } from "./task";

/** Share of the work that decoding is. */
const DECODING = 0.7;

export async function importFile(task: ImportTask, tick: Tick): Promise<ImportResult> {
  const target = path.join(task.scratch, "decoded.wav");
  const { stream, partial, fileName, sampleRate } = task;
  let found: Findings | undefined;
  try {
    const decoded = await decodedFile(task.file, target, (share) => tick(share * DECODING), {
      stream,
      partial,
      findings: (sound) => (found = findingsOf(sound.channels, sound.sampleRate, sampleRate, task.scratch))
    });
    const begin = decoded ? DECODING : 0;
    const { hash, layout, frames, before, loudness } = ingest(
      decoded ? target : task.file,
      task.dataFolder,
      sampleRate,
      task.scratch,
      (share) => tick(begin + share * (1 - begin)),
      found
    );
    return {
      decoded: decoded ? target : null,
      hash,
      frames,
      fileFrames: layout.frames,
      channels: layout.channels,
      sampleRate: layout.sampleRate,
      before,
      about: { ...aboutFile(task.file, fileName, layout, decoded, sampleRate, frames), loudness }
    };
  } finally {
    found?.close();
  }
}
