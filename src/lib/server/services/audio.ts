// Samples and overviews for pages.
import { existsSync, mkdirSync, rmSync } from "node:fs";
import { StereoBlock } from "$lib/core/audio/block";
import { OVERVIEW_BINS } from "$lib/core/audio/overview";
import { resampledLength } from "$lib/core/audio/resampler";
import { CHUNK_FRAMES } from "$lib/core/render/chunkCache";
import { PROJECT_RATES } from "$lib/core/session/schema";
import { config } from "../config";
import type { RecordingRow } from "../db/models";
import { UserFault } from "../faults";
import { runTask } from "../jobs/pool";
import { ChunkReader } from "../media/fileSource";
import { readOverview } from "../media/overviewFile";
import { jobFolder, overviewPath } from "../media/paths";
import { fileAtRate, findRecordingRow } from "./recordings";

const OPEN_FILES = 32;
const readers = new Map<string, ChunkReader>();
const ensuring = new Map<string, Promise<void>>();
let block: StereoBlock | undefined;

function needRate(rate: number): number {
  if (!(PROJECT_RATES as readonly number[]).includes(rate))
    throw new UserFault(404, "There is no such sample rate.");
  return rate;
}

/** Rebuilds missing caches of a recording on a worker thread; one at a time for each. */
async function ensure(row: RecordingRow, sampleRate: number): Promise<void> {
  const key = `${row.hash}.${sampleRate}`;
  let work = ensuring.get(key);
  if (!work) {
    const scratch = jobFolder(config.dataFolder, `ensure-${key}`);
    mkdirSync(scratch, { recursive: true });
    work = runTask(
      { kind: "ensure", dataFolder: config.dataFolder, scratch, hash: row.hash, sampleRate },
      new AbortController().signal,
      () => undefined
    )
      .then((outcome) => {
        if (!("result" in outcome)) throw new UserFault(410, "The audio of the recording cannot be read.");
      })
      .finally(() => {
        rmSync(scratch, { recursive: true, force: true });
        ensuring.delete(key);
      });
    ensuring.set(key, work);
  }
  return work;
}

function readerFor(file: string): ChunkReader {
  let reader = readers.get(file);
  if (reader) readers.delete(file);
  else {
    if (readers.size >= OPEN_FILES) {
      const [oldest, old] = readers.entries().next().value as [string, ChunkReader];
      old.close();
      readers.delete(oldest);
    }
    reader = new ChunkReader(file);
  }
  readers.set(file, reader);
  return reader;
}

/** One chunk of a recording, folded to stereo: left channel, then right, 32-bit float. */
export async function chunkBytes(
  id: string,
  sampleRate: number,
  chunk: number
): Promise<Uint8Array<ArrayBuffer>> {
  const row = await findRecordingRow(id);
  const file = fileAtRate(row, needRate(sampleRate));
  if (!existsSync(file)) await ensure(row, sampleRate);
  const reader = readerFor(file);
  if (!Number.isInteger(chunk) || chunk < 0 || chunk * CHUNK_FRAMES >= reader.file.layout.frames)
    throw new UserFault(404, "The recording ends before that.");
  block ??= new StereoBlock(CHUNK_FRAMES);
  reader.read(chunk, block.left.ptr, block.right.ptr);
  const out = new Float32Array(CHUNK_FRAMES * 2);
  out.set(block.left.f32);
  out.set(block.right.f32, CHUNK_FRAMES);
  return new Uint8Array(out.buffer);
}

/** Bins of a waveform overview: min and max bytes. */
export async function overviewBins(
  id: string,
  sampleRate: number,
  level: number,
  from: number,
  bins: number
): Promise<Uint8Array<ArrayBuffer>> {
  const row = await findRecordingRow(id);
  if (!(level in OVERVIEW_BINS) || from < 0 || bins < 1 || bins > 65536)
    throw new UserFault(404, "There is no such part of the waveform.");
  const frames = resampledLength(row.frames, row.sampleRate, needRate(sampleRate));
  const file = overviewPath(config.dataFolder, row.hash, sampleRate);
  let bytes = readOverview(file, frames, level, from, bins);
  if (!bytes) {
    rmSync(file, { force: true });
    await ensure(row, sampleRate);
    bytes = readOverview(file, frames, level, from, bins);
  }
  return new Uint8Array(bytes ?? []);
}
