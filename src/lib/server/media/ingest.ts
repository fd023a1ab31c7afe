// A file becomes a recording: every sample is checked, its content hashed, and its caches made. All in a folder of the job's own:
// what comes of it is put in place where the job ends.
import { renameSync } from "node:fs";
import path from "node:path";
import { resampledLength } from "$lib/core/audio/resampler";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { makeCaches } from "./caches";
import { eachBlock } from "./eachBlock";
import { Findings } from "./findings";
import { hashFile } from "./hash";
import { overviewName } from "./paths";
import { MediaStore, partName, syncFile, type FileState } from "./store";
import { WavFile } from "./wavFile";

/** What is to be found of sound that comes into a project. */
export function findingsOf(
  { channels, sampleRate, kind }: Pick<WavLayout, "channels" | "sampleRate" | "kind">,
  projectRate: number,
  scratch: string
): Findings {
  const overview = sampleRate === projectRate ? partName(path.join(scratch, "overview")) : undefined;
  return new Findings(channels, sampleRate, {
    overview,
    loudness: true,
    integers: !kind.startsWith("float")
  });
}

/** Reads every sample once. @throws FileFault naming a sample that is no number */
function checked(file: WavFile, findings: Findings, tick: (share: number) => void): void {
  const { frames } = file.layout;
  eachBlock(file, (planar, stride, n, at) => {
    findings.push(planar.ptr, stride, n);
    tick((at + n) / frames);
  });
  findings.finish();
}

export interface Ingested {
  readonly hash: string;
  readonly layout: WavLayout;
  /** Frames at the project's rate. */
  readonly frames: number;
  /** What the store had under this hash before. */
  readonly before: FileState;
  /** Integrated loudness in LUFS; null: silence, or too short. */
  readonly loudness: number | null;
}

/**
 * Checks and hashes a file, and makes its caches in `scratch`. The file stays where it is, synced.
 * @param found what was found of its samples when the file was written; they are not looked at again then
 * @param known its hash, where that was found then
 * @throws FileFault with the reason when it cannot be used
 */
export function ingest(
  file: string,
  data: string,
  sampleRate: number,
  scratch: string,
  tick: (share: number) => void,
  found?: Findings,
  known?: string
): Ingested {
  const wav = new WavFile(file);
  const { layout } = wav;
  const findings = found ?? findingsOf(layout, sampleRate, scratch);
  let loudness: number;
  try {
    if (!found) checked(wav, findings, (s) => tick(s * 0.3));
    loudness = findings.loudness;
  } finally {
    wav.close();
    findings.close();
  }
  const size = layout.dataOffset + layout.frames * layout.bytesPerFrame;
  const hash = known ?? hashFile(file, (s) => tick(0.3 + s * 0.2), size);
  syncFile(file);
  // What is there already may have been damaged since: then this file repairs it.
  const before = new MediaStore(data).verify(hash, (s) => tick(0.5 + s * 0.1));
  if (findings.overview !== undefined)
    renameSync(findings.overview, path.join(scratch, overviewName(hash, sampleRate)));
  else makeCaches({ file, hash, layout }, sampleRate, scratch, data, (s) => tick(0.6 + s * 0.4));
  const frames = resampledLength(layout.frames, layout.sampleRate, sampleRate);
  return { hash, layout, frames, before, loudness: Number.isFinite(loudness) ? loudness : null };
}
