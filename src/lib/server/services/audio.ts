// Samples and overviews for pages.
import { existsSync } from "node:fs";
import { StereoBlock } from "$lib/core/audio/block";
import { OVERVIEW_BINS } from "$lib/core/audio/overview";
import { resampledLength } from "$lib/core/audio/resampler";
import { CHUNK_FRAMES } from "$lib/core/render/chunkCache";
import { PROJECT_RATES } from "$lib/core/session/schema";
import { config } from "../config";
import type { RecordingRow } from "../db/models";
import { UserFault } from "../faults";
import { conformedIsWhole } from "../media/caches";
import { ChunkReader } from "../media/fileSource";
import { readOverview } from "../media/overviewFile";
import { originalPath, overviewPath } from "../media/paths";
import { checkRecording, knownName, markRecording } from "./condition";
import { ensureCaches, fileAtRate, findRecordingRow } from "./recordings";

const OPEN_FILES = 32;
const readers = new Map<string, ChunkReader>();
let block: StereoBlock | undefined;

function needRate(rate: number): number {
  if (!(PROJECT_RATES as readonly number[]).includes(rate))
    throw new UserFault(404, "There is no such sample rate.");
  return rate;
}

/** Notes it where the file has gone, and has it checked where it has come back. @throws UserFault 410 naming the recording */
async function needFile(row: RecordingRow): Promise<void> {
  const there = existsSync(originalPath(config.dataFolder, row.hash));
  if (there && row.state !== "missing") return;
  if (there) {
    await checkRecording(row.id, row.hash);
    return;
  }
  await markRecording(row.id, "missing");
  throw new UserFault(
    410,
    `The audio of "${await knownName(row.id)}" is missing from the data folder. Import it again.`
  );
}

/** Opens a recording at a rate; a conformed copy that is missing or cut short is made anew first. */
async function readerFor(row: RecordingRow, sampleRate: number): Promise<ChunkReader> {
  const file = fileAtRate(row, sampleRate);
  const known = readers.get(file);
  if (known && existsSync(file)) {
    readers.delete(file);
    readers.set(file, known);
    return known;
  }
  known?.close();
  readers.delete(file);
  await needFile(row);
  const frames = resampledLength(Number(row.frames), row.sampleRate, sampleRate);
  if (row.sampleRate !== sampleRate && !conformedIsWhole(file, frames, sampleRate))
    await ensureCaches(row, sampleRate);
  if (readers.size >= OPEN_FILES) {
    const [oldest] = readers;
    if (oldest) {
      oldest[1].close();
      readers.delete(oldest[0]);
    }
  }
  const reader = readers.get(file) ?? new ChunkReader(file);
  readers.set(file, reader);
  return reader;
}

/** Forgets open files: what lies under their names may have been replaced. */
export function closeReaders(): void {
  for (const reader of readers.values()) reader.close();
  readers.clear();
}

/** One chunk of a recording, folded to stereo: left channel, then right, 32-bit float. */
export async function chunkBytes(
  id: string,
  sampleRate: number,
  chunk: number
): Promise<Uint8Array<ArrayBuffer>> {
  const row = await findRecordingRow(id);
  const reader = await readerFor(row, needRate(sampleRate));
  if (!Number.isInteger(chunk) || chunk < 0 || chunk * CHUNK_FRAMES >= reader.file.layout.frames)
    throw new UserFault(404, "The recording ends before that.");
  block ??= new StereoBlock(CHUNK_FRAMES);
  reader.read(chunk, block.left.ptr, block.right.ptr);
  const out = new Float32Array(CHUNK_FRAMES * 2);
  out.set(block.left.f32);
  out.set(block.right.f32, CHUNK_FRAMES);
  return new Uint8Array(out.buffer);
}

/** Bins of a waveform overview: least and largest value, 16 bits each. Made anew when it is missing or cut short. */
export async function overviewBins(
  id: string,
  sampleRate: number,
  level: number,
  from: number,
  bins: number
): Promise<Uint8Array<ArrayBuffer>> {
  const row = await findRecordingRow(id);
  if (!(level in OVERVIEW_BINS) || !Number.isInteger(from) || from < 0 || !(bins >= 1 && bins <= 65536))
    throw new UserFault(404, "There is no such part of the waveform.");
  const frames = resampledLength(Number(row.frames), row.sampleRate, needRate(sampleRate));
  const file = overviewPath(config.dataFolder, row.hash, sampleRate);
  let bytes = readOverview(file, frames, level, from, bins);
  if (!bytes) {
    await needFile(row);
    await ensureCaches(row, sampleRate);
    bytes = readOverview(file, frames, level, from, bins);
  }
  if (!bytes) throw new UserFault(503, "The waveform cannot be drawn now.");
  return new Uint8Array(bytes);
}
