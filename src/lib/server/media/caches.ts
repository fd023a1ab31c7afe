// What is made from a recording for working with it: the file at the project's rate, the overview. Thrown away and made anew at will.
import { mkdirSync, renameSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { resampledLength } from "$lib/core/audio/resampler";
import { overviewBytes, OVERVIEW_BINS } from "$lib/core/audio/overview";
import { FileFault } from "$lib/core/formats/fault";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { conform } from "./conform";
import { eachBlock } from "./eachBlock";
import { OverviewBuilder } from "./overviewFile";
import { conformedName, conformedPath, originalPath, overviewName, overviewPath } from "./paths";
import { partName } from "./store";
import { WavFile } from "./wavFile";

/** Whether a file at a rate is whole: a copy that was cut short is made anew. */
export function conformedIsWhole(file: string, frames: number, sampleRate: number): boolean {
  if (!statSync(file, { throwIfNoEntry: false })) return false;
  try {
    const wav = new WavFile(file);
    const { layout } = wav;
    wav.close();
    return layout.frames === frames && layout.sampleRate === sampleRate;
  } catch (error) {
    if (error instanceof FileFault) return false;
    throw error;
  }
}

/** Whether an overview has all of its levels. */
export function overviewIsWhole(file: string, frames: number): boolean {
  const wanted = OVERVIEW_BINS.reduce((sum, _, level) => sum + overviewBytes(level, frames), 0);
  return statSync(file, { throwIfNoEntry: false })?.size === wanted;
}

function drawOverview(file: string, target: string): void {
  const wav = new WavFile(file);
  try {
    const { channels } = wav.layout;
    const overview = new OverviewBuilder(target);
    try {
      eachBlock(wav, (planar, stride, n) => overview.push(planar.ptr, stride, channels, n));
      overview.finish();
    } finally {
      overview.close();
    }
  } finally {
    wav.close();
  }
}

export interface RecordingFile {
  readonly file: string;
  readonly hash: string;
  readonly layout: Pick<WavLayout, "frames" | "sampleRate">;
}

/** Makes the caches of a file in a folder, named as the store names them; what the store has is left out. */
export function makeCaches(
  { file, hash, layout }: RecordingFile,
  sampleRate: number,
  folder: string,
  data: string,
  tick: (share: number) => void
): void {
  mkdirSync(folder, { recursive: true });
  const frames = resampledLength(layout.frames, layout.sampleRate, sampleRate);
  let atRate = file;
  if (layout.sampleRate !== sampleRate) {
    const there = conformedPath(data, hash, sampleRate);
    if (conformedIsWhole(there, frames, sampleRate)) atRate = there;
    else {
      atRate = path.join(folder, conformedName(hash, sampleRate));
      conform(file, sampleRate, atRate, (s) => tick(s * 0.8));
    }
  }
  if (!overviewIsWhole(overviewPath(data, hash, sampleRate), frames))
    drawOverview(atRate, path.join(folder, overviewName(hash, sampleRate)));
  tick(1);
}

/** Makes sure that a recording of the store can be worked with at a rate; makes anew what is missing or cut short. Returns its frames. */
export function ensureCaches(
  data: string,
  hash: string,
  sampleRate: number,
  tick: (share: number) => void
): number {
  const original = new WavFile(originalPath(data, hash));
  const { layout } = original;
  original.close();
  const frames = resampledLength(layout.frames, layout.sampleRate, sampleRate);
  const put = (target: string, make: (part: string) => void) => {
    const part = partName(target);
    try {
      make(part);
      renameSync(part, target);
    } finally {
      rmSync(part, { force: true });
    }
  };
  let atRate = originalPath(data, hash);
  if (layout.sampleRate !== sampleRate) {
    atRate = conformedPath(data, hash, sampleRate);
    if (!conformedIsWhole(atRate, frames, sampleRate))
      put(atRate, (part) => conform(originalPath(data, hash), sampleRate, part, tick));
  }
  const overview = overviewPath(data, hash, sampleRate);
  if (!overviewIsWhole(overview, frames)) put(overview, (part) => drawOverview(atRate, part));
  return frames;
}
