// Presets as files: written with the recordings that they ask for, and read into the store.
import { randomUUID } from "node:crypto";
import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import type { PresetsAdded } from "$lib/api/presets";
import { findEffect, recordingsOf } from "$lib/core/effects/registry";
import { newRecording } from "$lib/core/session/make";
import { parsePresetsFile, presetsFileText, type FileRecording } from "$lib/core/presets/presetsFile";
import type { RecipeStep, Recording } from "$lib/core/session/schema";
import { config } from "../config";
import { write } from "../db/connection";
import { UserFault } from "../faults";
import { runTask } from "../jobs/pool";
import type { ImportResult } from "../jobs/tasks/task";
import { jobFolder, originalPath, recordingIdOf } from "../media/paths";
import { MediaStore } from "../media/store";
import { reserve } from "../media/space";
import { allPresets, freeName, savePreset } from "./presets";
import { registerRecordings } from "./recordings";

/** Bytes of a file of presets at most. */
const MOST_BYTES = 200_000_000;
/** Imported recordings are conformed to a rate when a project wants one: the file's own will do here. */
const RATE = 48000;

/** The text of a file with these presets. @throws UserFault 404, 410 */
export async function presetsFile(ids: readonly string[]): Promise<string> {
  const all = await allPresets();
  const chosen = ids.map((id) => {
    const preset = all.find((one) => one.id === id);
    if (!preset) throw new UserFault(404, "There is no such preset.");
    return preset;
  });
  const recordings = new Map<string, FileRecording>();
  for (const { id, name, media } of chosen.flatMap((preset) => preset.recordings)) {
    if (media === null || recordings.has(id)) continue;
    try {
      const wav = readFileSync(originalPath(config.dataFolder, media)).toString("base64");
      recordings.set(id, { id, name, wav });
    } catch {
      throw new UserFault(410, `The audio of "${name}" is missing from the data folder. Import it again.`);
    }
  }
  return presetsFileText(chosen, [...recordings.values()]);
}

/** Takes a recording of a file into the store. @throws UserFault naming it */
async function stored({ name, wav }: FileRecording): Promise<Recording> {
  const scratch = jobFolder(config.dataFolder, `preset-${randomUUID()}`);
  mkdirSync(scratch, { recursive: true });
  const release = reserve(wav.length, `"${name}" was not read`, () => 0);
  try {
    const file = path.join(scratch, "recording");
    writeFileSync(file, Buffer.from(wav, "base64"));
    const task = {
      kind: "import" as const,
      dataFolder: config.dataFolder,
      scratch,
      file,
      fileName: name,
      sampleRate: RATE
    };
    const outcome = await runTask(task, new AbortController().signal, () => undefined);
    if ("fault" in outcome) throw new UserFault(422, `"${name}" cannot be used: ${outcome.fault}.`);
    if ("sentence" in outcome) throw new UserFault(507, outcome.sentence);
    if ("error" in outcome) throw new Error(outcome.error);
    const { hash, decoded, fileFrames, channels, sampleRate, before } = outcome.result as ImportResult;
    const store = new MediaStore(config.dataFolder);
    store.adopt(decoded ?? file, hash, before === "damaged");
    store.adoptCaches(scratch);
    const facts = { hash, sampleRate, channels, frames: fileFrames, kind: "import" as const };
    await write((models, transaction) => registerRecordings(models, transaction, [facts]));
    return newRecording(recordingIdOf(hash), {
      ...facts,
      name: name.slice(0, 120) || "Recording",
      media: hash
    });
  } finally {
    release();
    rmSync(scratch, { recursive: true, force: true });
  }
}

/** A step that names recordings by their ids in the store. */
function renamed(step: RecipeStep, ids: ReadonlyMap<string, Recording>): RecipeStep {
  const params = { ...step.params };
  for (const param of findEffect(step.effect)?.params ?? []) {
    const known = param.kind === "recording" ? ids.get(String(params[param.id])) : undefined;
    if (known) params[param.id] = known.id;
  }
  return { ...step, params };
}

/**
 * Saves the presets of a file; one whose name is taken gets a number behind it. Those that cannot be used are told, the others are saved.
 * @throws UserFault 422 when the file is none of presets
 */
export async function addPresetsFile(fileName: string, text: string): Promise<PresetsAdded> {
  if (text.length > MOST_BYTES)
    throw new UserFault(413, `"${fileName}" was not read: it is larger than 200 MB.`);
  const file = (() => {
    try {
      return parsePresetsFile(text, fileName);
    } catch (error) {
      throw new UserFault(422, `"${fileName}" was not read: it ${(error as Error).message}.`);
    }
  })();
  const faults = [...file.faults];
  const recordings = new Map<string, Recording>();
  for (const recording of file.recordings)
    try {
      recordings.set(recording.id, await stored(recording));
    } catch (error) {
      if (!(error instanceof UserFault)) throw error;
      faults.push(error.message);
    }
  const added: string[] = [];
  for (const { name, notes, tags, steps } of file.presets) {
    const wanted = [...new Set(steps.flatMap(recordingsOf))];
    const own = wanted.flatMap((id) => recordings.get(id) ?? []);
    if (own.length < wanted.length) {
      faults.push(`"${name}" was not read: a recording that it needs cannot be used.`);
      continue;
    }
    const free = await freeName(name);
    const whole = steps.map((step, i) => ({ ...renamed(step, recordings), id: `step-${i}` }));
    await savePreset({ name: free, notes, tags: [...tags], steps: whole, recordings: own, over: false });
    added.push(free);
  }
  return { added, faults };
}
