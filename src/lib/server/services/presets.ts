import { randomUUID } from "node:crypto";
import type { Transaction } from "sequelize";
import { z } from "zod";
import type { newPresetSchema, PresetFacts, PresetView } from "$lib/api/presets";
import { FACTORY_PRESETS } from "$lib/core/presets/factory";
import { bringUpPreset, type PresetJson } from "$lib/core/session/migrations/bringUp";
import { recipeOf } from "$lib/core/session/clipState";
import { recordingsOf } from "$lib/core/effects/registry";
import { newRecording } from "$lib/core/session/make";
import { LONGEST } from "$lib/core/presets/presetsFile";
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
    const tags = z.array(z.string()).parse(JSON.parse(row.tags));
    return {
      id,
      name,
      notes,
      tags,
      factory: false,
      steps: preset.steps,
      recordings: await carried(models, preset)
    };
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

/** All chains: those that come with Wring, then the saved ones, each by name. */
export async function allPresets(): Promise<PresetView[]> {
  const factory = FACTORY_PRESETS.map((preset) => ({ ...preset, factory: true, recordings: [] }));
  return [...(await listPresets()), ...factory];
}

const isFactoryName = (name: string) => FACTORY_PRESETS.some((preset) => preset.name === name);

/** @throws UserFault 409 when a name is taken by another */
async function needFree(
  models: Models,
  transaction: Transaction,
  name: string,
  own: string | null
): Promise<void> {
  if (isFactoryName(name))
    throw new UserFault(409, `"${name}" is the name of a preset that comes with Wring. Choose another name.`);
  const known = await models.Preset.findOne({ where: { name }, transaction });
  if (known && known.id !== own)
    throw new UserFault(
      409,
      `There is already a preset named "${name}". Choose another name, or save over that one.`
    );
}

/** A name that no preset has: the wanted one, or with a number behind it. */
export async function freeName(wanted: string): Promise<string> {
  const taken = new Set((await allPresets()).map(({ name }) => name));
  if (!taken.has(wanted)) return wanted;
  for (let n = 2; ; n++) {
    const name = `${wanted.slice(0, LONGEST.name - 5)} ${n}`;
    if (!taken.has(name)) return name;
  }
}

/** What is stored of a chain. @throws UserFault 422 when a recording that it needs was not given */
function storedText(
  steps: z.infer<typeof newPresetSchema>["steps"],
  recordings: readonly Recording[]
): PresetJson {
  // Where a step treats what it does belongs to the sound, not to the chain.
  const whole = recipeOf(steps).map((step) => ({ ...step, span: null }));
  const missing = whole
    .flatMap(recordingsOf)
    .filter((id) => !recordings.some((recording) => recording.id === id));
  if (missing.length > 0)
    throw new UserFault(422, "The preset needs a recording that was not given with it.");
  return { version: DOCUMENT_VERSION, steps: whole, recordings };
}

/** Saves a chain, with the recordings that it needs. @throws UserFault 409 when the name is taken and it is not to be saved over */
export async function savePreset({
  name,
  notes,
  tags = [],
  steps,
  recordings,
  over = false
}: z.input<typeof newPresetSchema>): Promise<PresetView> {
  return write(async (models, transaction) => {
    const known = await models.Preset.findOne({ where: { name }, transaction });
    await needFree(models, transaction, name, over ? (known?.id ?? null) : null);
    const preset = storedText(steps, recordings);
    const values = { name, notes, tags: JSON.stringify([...new Set(tags)]), steps: JSON.stringify(preset) };
    const id = known?.id ?? randomUUID();
    if (known) await known.update(values, { transaction });
    else await models.Preset.create({ id, ...values }, { transaction });
    return { id, name, notes, tags, factory: false, steps: preset.steps, recordings: preset.recordings };
  });
}

/** Changes what is said of a preset. @throws UserFault 404, 409 */
export async function setPreset(id: string, { name, notes, tags }: PresetFacts): Promise<void> {
  await write(async (models, transaction) => {
    const row = await models.Preset.findByPk(id, { transaction });
    if (!row) throw new UserFault(404, "There is no such preset.");
    if (name !== undefined) await needFree(models, transaction, name, id);
    await row.update(
      {
        name: name ?? row.name,
        notes: notes ?? row.notes,
        tags: tags ? JSON.stringify([...new Set(tags)]) : row.tags
      },
      { transaction }
    );
  });
}

export async function deletePreset(id: string): Promise<void> {
  const gone = await write((models, transaction) => models.Preset.destroy({ where: { id }, transaction }));
  if (gone === 0) throw new UserFault(404, "There is no such preset.");
}
