import { randomUUID } from "node:crypto";
import type { FadePresetsFile, FadePresetView } from "$lib/api/fades";
import { fadeShapeSchema, type FadeShape } from "$lib/core/session/schema";
import { database, write } from "../db/connection";
import { UserFault } from "../faults";
import { log } from "../log";

/** Saved shapes of fades by name. One that cannot be read is left out and logged. */
export async function listFadePresets(): Promise<FadePresetView[]> {
  const { models } = await database();
  const rows = await models.FadePreset.findAll({ order: [["name", "ASC"]] });
  return rows.flatMap(({ id, name, shape }) => {
    const parsed = fadeShapeSchema.safeParse(JSON.parse(shape));
    if (parsed.success) return [{ id, name, shape: parsed.data as FadeShape }];
    log.error({ preset: name, error: parsed.error.message }, "fade preset cannot be read");
    return [];
  });
}

/** Saves shapes; those of the same names are replaced. Returns all there are. */
export async function saveFadePresets({ fades }: FadePresetsFile): Promise<FadePresetView[]> {
  await write(async (models, transaction) => {
    for (const { name, shape } of fades) {
      const text = JSON.stringify(shape);
      const known = await models.FadePreset.findOne({ where: { name }, transaction });
      if (known) await known.update({ shape: text }, { transaction });
      else await models.FadePreset.create({ id: randomUUID(), name, shape: text }, { transaction });
    }
  });
  return listFadePresets();
}

export async function deleteFadePreset(id: string): Promise<void> {
  const gone = await write((models, transaction) =>
    models.FadePreset.destroy({ where: { id }, transaction })
  );
  if (gone === 0) throw new UserFault(404, "There is no such fade preset.");
}
