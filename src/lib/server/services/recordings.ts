import { existsSync, mkdirSync, rmSync } from "node:fs";
import { Op, type Transaction } from "sequelize";
import { recordingsOf } from "$lib/core/effects/registry";
import { resampledLength } from "$lib/core/audio/resampler";
import type { Document } from "$lib/core/session/document";
import type { ResolvedClip } from "$lib/core/session/lookup";
import type { BrokenRecording } from "$lib/api/types";
import { config } from "../config";
import { database } from "../db/connection";
import type { Models, RecordingRow } from "../db/models";
import { UserFault } from "../faults";
import { runTask } from "../jobs/pool";
import { conformedIsWhole } from "../media/caches";
import type { RecordingFiles } from "../media/fileSource";
import { conformedPath, audioIdOf, jobFolder, originalPath, recordingIdOf } from "../media/paths";

export interface NewRecording {
  readonly hash: string;
  readonly sampleRate: number;
  readonly channels: number;
  /** Frames of the file itself. */
  readonly frames: number;
  readonly kind: "import" | "render";
}

/** Notes recordings of the media store, whose files are known to be good. */
export async function registerRecordings(
  models: Models,
  transaction: Transaction,
  recordings: readonly NewRecording[]
): Promise<void> {
  if (recordings.length === 0) return;
  const rows = recordings.map((recording) => ({ id: recordingIdOf(recording.hash), ...recording }));
  await models.Recording.bulkCreate(rows, { ignoreDuplicates: true, transaction });
  // Those that were here before are good again, and used.
  await models.Recording.update(
    { state: "good", unusedSince: null },
    {
      where: {
        id: rows.map(({ id }) => id),
        [Op.or]: [{ state: { [Op.ne]: "good" } }, { unusedSince: { [Op.ne]: null } }]
      },
      transaction
    }
  );
}

/** @throws UserFault 404 */
export async function findRecordingRow(id: string): Promise<RecordingRow> {
  const { models } = await database();
  const row = await models.Recording.findByPk(audioIdOf(id));
  if (!row) throw new UserFault(404, "There is no such recording.");
  return row;
}

/** The file that holds a recording at a rate. */
export function fileAtRate(row: Pick<RecordingRow, "hash" | "sampleRate">, sampleRate: number): string {
  return row.sampleRate === sampleRate
    ? originalPath(config.dataFolder, row.hash)
    : conformedPath(config.dataFolder, row.hash, sampleRate);
}

const ensuring = new Map<string, Promise<void>>();

/** Makes missing or damaged caches of a recording on a worker thread; one at a time for each. @throws UserFault when its file cannot be read */
export function ensureCaches(row: RecordingRow, sampleRate: number): Promise<void> {
  const key = `${row.hash}.${sampleRate}`;
  let work = ensuring.get(key);
  if (!work) {
    work = ensureNow(row, sampleRate, key).finally(() => ensuring.delete(key));
    ensuring.set(key, work);
  }
  return work;
}

async function ensureNow(row: RecordingRow, sampleRate: number, key: string): Promise<void> {
  const scratch = jobFolder(config.dataFolder, `ensure-${key}`);
  mkdirSync(scratch, { recursive: true });
  try {
    const { hash } = row;
    const task = { kind: "ensure" as const, dataFolder: config.dataFolder, scratch, hash, sampleRate };
    const outcome = await runTask(task, new AbortController().signal, () => undefined);
    if ("sentence" in outcome) throw new UserFault(507, outcome.sentence);
    if (!("result" in outcome)) throw new UserFault(410, "The audio of the recording cannot be read.");
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}

/** Recordings that clips sound from, and those that their steps ask for. */
export function recordingsOfClips(clips: readonly ResolvedClip[]): string[] {
  const ids = clips.flatMap((clip) => [
    clip.recordingId,
    ...(clip.render ? [clip.render.recordingId] : []),
    ...[...clip.steps, ...clip.recordingSteps].flatMap(recordingsOf)
  ]);
  return [...new Set(ids)];
}

/**
 * Files of recordings at a rate; conformed copies that are missing or cut short are made anew.
 * @param nameOf what a recording is called in a refusal
 * @throws UserFault 409 naming a recording whose file is missing
 */
export async function filesOf(
  ids: readonly string[],
  sampleRate: number,
  nameOf: (id: string) => string
): Promise<RecordingFiles> {
  const { models } = await database();
  const rows = new Map(
    (await models.Recording.findAll({ where: { id: ids.map(audioIdOf) } })).map(
      (row) => [row.id, row] as const
    )
  );
  const files: Record<string, string> = {};
  for (const id of ids) {
    const row = rows.get(audioIdOf(id));
    if (!row || !existsSync(originalPath(config.dataFolder, row.hash)))
      throw new UserFault(
        409,
        `The audio of "${nameOf(id)}" is missing from the data folder. Import it again.`
      );
    const file = fileAtRate(row, sampleRate);
    const frames = resampledLength(Number(row.frames), row.sampleRate, sampleRate);
    if (row.sampleRate !== sampleRate && !conformedIsWhole(file, frames, sampleRate))
      await ensureCaches(row, sampleRate);
    files[id] = file;
  }
  return files;
}

/** Name of a recording in a document, for a refusal. */
export function recordingName(document: Document, id: string): string {
  return document.get("recordings", id)?.name ?? "a recording that a step asks for";
}

/** Recordings of a document whose file is damaged or missing. */
export async function brokenAmong(document: Document): Promise<BrokenRecording[]> {
  const { models } = await database();
  const states = ["damaged", "missing"] as const;
  const rows = await models.Recording.findAll({ where: { state: [...states] } });
  const broken = new Map(rows.map((row) => [row.id, row.state as "damaged" | "missing"]));
  if (broken.size === 0) return [];
  return [...document.values("recordings")].flatMap(({ id }) => {
    const state = broken.get(audioIdOf(id));
    return state ? { id, state } : [];
  });
}
