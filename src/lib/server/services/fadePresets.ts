import { randomUUID } from "node:crypto";
import { z } from "zod";
import type { FadeFacts, FadePresetsFile, FadePresetView } from "$lib/api/fades";
import { fadeShapeSchema, type FadeShape } from "$lib/core/session/schema";
import { database, write } from "../db/connection";
import { UserFault } from "../faults";
import { log } from "../log";

/** Saved shapes of fades by name. One that cannot be read is left out and logged. */
export async function listFadePresets(): Promise<FadePresetView[]> {
  const { models } = await database();
  const rows = await models.FadePreset.findAll({ order: [["name", "ASC"]] });
  return rows.flatMap(({ id, name, notes, tags: text, shape }) => {
    const parsed = fadeShapeSchema.safeParse(JSON.parse(shape));
    const tags = z.array(z.string()).safeParse(JSON.parse(text)).data ?? [];
    if (parsed.success) return [{ id, name, notes, tags, shape: parsed.data as FadeShape }];
    log.error({ preset: name, error: parsed.error.message }, "fade preset cannot be read");
    return [];
  });
}

/** Saves shapes; those of the same names are replaced. Returns all there are. */
export async function saveFadePresets({ fades }: FadePresetsFile): Promise<FadePresetView[]> {
  await write(async (models, transaction) => {
    for (const { name, notes, tags, shape } of fades) {
      const values = {
        shape: JSON.stringify(shape),
        ...(notes === undefined ? {} : { notes }),
        ...(tags ? { tags: JSON.stringify([...new Set(tags)]) } : {})
      };
      const known = await models.FadePreset.findOne({ where: { name }, transaction });
      if (known) await known.update(values, { transaction });
      else await models.FadePreset.create({ id: randomUUID(), name, ...values }, { transaction });
    }
  });
  return listFadePresets();
}

/** Changes what is said of a fade preset. @throws UserFault 404, 409 */
export async function setFadePreset(id: string, { name, notes, tags }: FadeFacts): Promise<void> {
  await write(async (models, transaction) => {
    const row = await models.FadePreset.findByPk(id, { transaction });
    if (!row) throw new UserFault(404, "There is no such fade preset.");
    const other =
      name === undefined ? null : await models.FadePreset.findOne({ where: { name }, transaction });
    if (other && other.id !== id)
      throw new UserFault(409, `There is already a fade preset named "${other.name}". Choose another name.`);
    const words = tags ? JSON.stringify([...new Set(tags)]) : row.tags;
    await row.update({ name: name ?? row.name, notes: notes ?? row.notes, tags: words }, { transaction });
  });
}

export async function deleteFadePreset(id: string): Promise<void> {
  const gone = await write((models, transaction) =>
    models.FadePreset.destroy({ where: { id }, transaction })
  );
  if (gone === 0) throw new UserFault(404, "There is no such fade preset.");
}
