import { randomUUID } from "node:crypto";
import type { z } from "zod";
import type { newPresetSchema, PresetView } from "$lib/api/types";
import { bringUpPreset, type PresetJson } from "$lib/core/session/migrations/bringUp";
import { recipeOf } from "$lib/core/session/clipState";
import { recordingsOf } from "$lib/core/effects/registry";
import { newRecording } from "$lib/core/session/make";
import { DOCUMENT_VERSION, type Recording } from "$lib/core/session/schema";
import { database, write } from "../db/connection";
import type { Models, PresetRow } from "../db/models";
import { UserFault } from "../faults";
import { log } from "../log";
import { audioIdOf } from "../media/paths";

/**
 * The recordings that a preset's steps ask for, with the frames of their files. Presets of version 1 did not carry them: they
 * are found in the store.
 */
async function carried(models: Models, { steps, recordings }: PresetJson): Promise<readonly Recording[]> {
  const wanted = [...new Set(steps.flatMap(recordingsOf))];
  if (wanted.length === 0) return [];
  const names = new Map(recordings.map((r) => [r.id, r.name]));
  const rows = await models.Recording.findAll({ where: { id: wanted.map(audioIdOf) } });
  return wanted.flatMap((id) => {
    const row = rows.find((one) => one.id === audioIdOf(id));
    if (!row) return [];
    const { hash, frames, channels, sampleRate, kind } = row;
    const name = names.get(id) ?? "Impulse response";
    return newRecording(id, { name, media: hash, frames: Number(frames), channels, sampleRate, kind });
  });
}

async function view(models: Models, row: PresetRow): Promise<PresetView | undefined> {
  try {
    const preset = bringUpPreset(JSON.parse(row.steps));
    const { id, name, notes } = row;
    return { id, name, notes, steps: preset.steps, recordings: await carried(models, preset) };
  } catch (error) {
    log.error({ preset: row.name, error: String(error) }, "preset cannot be read");
    return undefined;
  }
}

/** All saved chains by name. One that cannot be read is left out and logged. */
export async function listPresets(): Promise<PresetView[]> {
  const { models } = await database();
  const rows = await models.Preset.findAll({ order: [["name", "ASC"]] });
  const views = await Promise.all(rows.map((row) => view(models, row)));
  return views.filter((preset) => preset !== undefined);
}

/** Saves a chain under a new name, with the recordings that it needs. @throws UserFault 409 when the name is taken */
export async function savePreset({
  name,
  notes,
  steps,
  recordings
}: z.infer<typeof newPresetSchema>): Promise<PresetView> {
  return write(async (models, transaction) => {
    if (await models.Preset.findOne({ where: { name }, transaction }))
      throw new UserFault(
        409,
        `There is already a preset named "${name}". Choose another name, or delete that one first.`
      );
    // Where a step treats what it does belongs to the sound, not to the chain.
    const whole = recipeOf(steps).map((step) => ({ ...step, span: null }));
    const preset: PresetJson = { version: DOCUMENT_VERSION, steps: whole, recordings };
    const missing = preset.steps
      .flatMap(recordingsOf)
      .filter((id) => !recordings.some((recording) => recording.id === id));
    if (missing.length > 0)
      throw new UserFault(422, "The preset needs a recording that was not given with it.");
    const id = randomUUID();
    await models.Preset.create({ id, name, notes, steps: JSON.stringify(preset) }, { transaction });
    return { id, name, notes, steps: preset.steps, recordings: preset.recordings };
  });
}

export async function deletePreset(id: string): Promise<void> {
  const gone = await write((models, transaction) => models.Preset.destroy({ where: { id }, transaction }));
  if (gone === 0) throw new UserFault(404, "There is no such preset.");
}
