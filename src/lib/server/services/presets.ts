import { randomUUID } from "node:crypto";
import type { z } from "zod";
import type { newPresetSchema, PresetView } from "$lib/api/types";
import { recipeOf } from "$lib/core/session/clipState";
import { database, write } from "../db/connection";
import type { PresetRow } from "../db/models";
import { UserFault } from "../faults";

function view(row: PresetRow): PresetView {
  return {
    id: row.id,
    name: row.name,
    notes: row.notes,
    steps: JSON.parse(row.steps) as PresetView["steps"]
  };
}

/** All saved chains by name. */
export async function listPresets(): Promise<PresetView[]> {
  const { models } = await database();
  return (await models.Preset.findAll({ order: [["name", "ASC"]] })).map(view);
}

/** Saves a chain under a new name. @throws UserFault 409 when the name is taken */
export async function savePreset({
  name,
  notes,
  steps
}: z.infer<typeof newPresetSchema>): Promise<PresetView> {
  return write(async (models, transaction) => {
    if (await models.Preset.findOne({ where: { name }, transaction }))
      throw new UserFault(
        409,
        `There is already a preset named "${name}". Choose another name, or delete that one first.`
      );
    const row = { id: randomUUID(), name, notes, steps: JSON.stringify(recipeOf(steps)) };
    return view(await models.Preset.create(row, { transaction }));
  });
}

export async function deletePreset(id: string): Promise<void> {
  const gone = await write((models, transaction) => models.Preset.destroy({ where: { id }, transaction }));
  if (gone === 0) throw new UserFault(404, "There is no such preset.");
}
