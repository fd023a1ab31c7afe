import { randomUUID } from "node:crypto";
import type { z } from "zod";
import type { DeliveryPresetView, newDeliveryPresetSchema } from "$lib/api/delivery";
import { deliverySettingsSchema, settingsFault, standardSettings } from "$lib/core/delivery/settings";
import { patternFault } from "$lib/core/delivery/names";
import { database, write } from "../db/connection";
import { UserFault } from "../faults";
import { log } from "../log";

/** Saved delivery settings by name. One that cannot be read is left out and logged. */
export async function listDeliveryPresets(): Promise<DeliveryPresetView[]> {
  const { models } = await database();
  const rows = await models.DeliveryPreset.findAll({ order: [["name", "ASC"]] });
  return rows.flatMap(({ id, name, settings }) => {
    // Fields that came later have their standard.
    const parsed = deliverySettingsSchema.safeParse({
      ...standardSettings(),
      ...(JSON.parse(settings) as object)
    });
    if (parsed.success) return [{ id, name, settings: parsed.data }];
    log.error({ preset: name, error: parsed.error.message }, "delivery preset cannot be read");
    return [];
  });
}

/** Saves settings; those of the same name are replaced. @throws UserFault 422 when they cannot be carried out */
export async function saveDeliveryPreset({
  name,
  settings
}: z.infer<typeof newDeliveryPresetSchema>): Promise<DeliveryPresetView> {
  const fault = settingsFault(settings) ?? patternFault(settings.pattern);
  if (fault) throw new UserFault(422, fault);
  const text = JSON.stringify(settings);
  return write(async (models, transaction) => {
    const known = await models.DeliveryPreset.findOne({ where: { name }, transaction });
    const row = known
      ? await known.update({ settings: text }, { transaction })
      : await models.DeliveryPreset.create({ id: randomUUID(), name, settings: text }, { transaction });
    return { id: row.id, name, settings };
  });
}

export async function deleteDeliveryPreset(id: string): Promise<void> {
  const gone = await write((models, transaction) =>
    models.DeliveryPreset.destroy({ where: { id }, transaction })
  );
  if (gone === 0) throw new UserFault(404, "There is no such preset.");
}
