// A project and the saved delivery settings of a data folder, read while another process may be working on it.
import { existsSync } from "node:fs";
import path from "node:path";
import { QueryTypes, Sequelize } from "sequelize";
import sqlite3 from "sqlite3";
import { deliverySettingsSchema, standardSettings, type DeliverySettings } from "$lib/core/delivery/settings";
import type { Document } from "$lib/core/session/document";
import { documentOfRows } from "./projectRows";

type Select = <T extends object>(sql: string, bind: Record<string, unknown>) => Promise<T[]>;

/** Opens the database for reading only: that needs no lock, and makes nothing. @throws Error when there is none */
async function reading<T>(dataFolder: string, work: (select: Select) => Promise<T>): Promise<T> {
  const storage = path.join(dataFolder, "wring.sqlite");
  if (!existsSync(storage)) throw new Error(`There is no data folder of Wring at "${dataFolder}"`);
  const sequelize = new Sequelize({
    dialect: "sqlite",
    storage,
    dialectOptions: { mode: sqlite3.OPEN_READONLY },
    logging: false
  });
  try {
    return await work((sql, bind) => sequelize.query(sql, { type: QueryTypes.SELECT, bind }));
  } finally {
    await sequelize.close();
  }
}

interface Row {
  readonly id: string;
  readonly name: string;
  readonly version: number;
  readonly rest: string;
}

/** A project by its name or id. @throws Error with a sentence when there is none, or several of the name, or it cannot be read */
export async function savedProject(dataFolder: string, wanted: string): Promise<Document> {
  return reading(dataFolder, async (select) => {
    const rows = await select<Row>(
      "SELECT id, name, version, rest FROM projects WHERE deletedAt IS NULL AND (id = $wanted OR name = $wanted)",
      { wanted }
    );
    const [row] = rows;
    if (!row) throw new Error(`There is no project named "${wanted}"`);
    if (rows.length > 1)
      throw new Error(`There are ${rows.length} projects named "${wanted}"; say which by its id`);
    const entities = await select<{ tableName: string; json: string }>(
      "SELECT tableName, json FROM entities WHERE projectId = $id",
      { id: row.id }
    );
    try {
      return documentOfRows(row, entities);
    } catch (error) {
      throw new Error(`"${row.name}" cannot be opened: ${(error as Error).message}`, { cause: error });
    }
  });
}

/** Saved delivery settings of a name; undefined when there are none. */
export async function savedDelivery(dataFolder: string, name: string): Promise<DeliverySettings | undefined> {
  return reading(dataFolder, async (select) => {
    const [row] = await select<{ settings: string }>(
      "SELECT settings FROM deliveryPresets WHERE name = $name",
      { name }
    );
    if (!row) return undefined;
    const read = { ...standardSettings(), ...(JSON.parse(row.settings) as object) };
    return deliverySettingsSchema.parse(read);
  });
}
