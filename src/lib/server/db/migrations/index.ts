import type { Sequelize } from "sequelize";
import { SequelizeStorage, Umzug } from "umzug";
import { deliveryPresets } from "./deliveryPresets";
import { entities } from "./entities";
import { fadePresets } from "./fadePresets";
import { first } from "./first";
import { presetTags } from "./presetTags";

/** Brings the schema up to date, and what is stored with it. */
export async function migrate(sequelize: Sequelize): Promise<void> {
  const umzug = new Umzug({
    migrations: [first, entities, deliveryPresets, fadePresets, presetTags],
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined
  });
  await umzug.up();
}
