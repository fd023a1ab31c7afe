import { ingest } from "../../media/ingest";
import type { ImportResult, ImportTask, Tick } from "./task";

export function importFile(task: ImportTask, tick: Tick): ImportResult {
  const { hash, layout, frames, before } = ingest(
    task.file,
    task.dataFolder,
    task.sampleRate,
    task.scratch,
    tick
  );
  return {
    hash,
    frames,
    fileFrames: layout.frames,
    channels: layout.channels,
    sampleRate: layout.sampleRate,
    before
  };
}
