import { mkdirSync } from "node:fs";
import path from "node:path";
import { QueryTypes, Sequelize, Transaction } from "sequelize";
import { config } from "../config";
import { log } from "../log";
import { DamagedDatabase, folderFault } from "./folderFault";
import { lockFolder, unlockFolder } from "./lock";
import { migrate } from "./migrations";
import { defineModels, type Models } from "./models";

interface Database {
  readonly sequelize: Sequelize;
  readonly models: Models;
}

let opened: Promise<Database> | undefined;

export function databaseFile(): string {
  return path.join(config.dataFolder, "wring.sqlite");
}

async function check(sequelize: Sequelize): Promise<void> {
  const [row] = await sequelize.query<{ quick_check: string }>("PRAGMA quick_check(1)", {
    type: QueryTypes.SELECT
  });
  if (row?.quick_check === "ok") return;
  log.error({ found: row?.quick_check }, "the database is damaged");
  throw new DamagedDatabase(`The database in ${config.dataFolder} is damaged.`);
}

async function open(): Promise<Database> {
  try {
    mkdirSync(config.dataFolder, { recursive: true });
    await lockFolder(config.dataFolder);
    const sequelize = new Sequelize({ dialect: "sqlite", storage: databaseFile(), logging: false });
    try {
      // Every commit reaches the disk before it is confirmed: SQLite's default, which connections of transactions have too.
      await sequelize.query("PRAGMA journal_mode = WAL");
      await check(sequelize);
      await migrate(sequelize);
    } catch (error) {
      await sequelize.close();
      throw error;
    }
    return { sequelize, models: defineModels(sequelize) };
  } catch (error) {
    throw folderFault(config.dataFolder, error) ?? error;
  }
}

/**
 * The database of the data folder; locked, checked and brought up to date by the first call.
 * @throws FolderFault when the folder cannot be worked with, DamagedDatabase when the database cannot be read
 */
export function database(): Promise<Database> {
  opened ??= open().catch((error: unknown) => {
    opened = undefined;
    throw error;
  });
  return opened;
}

/** Closes the database and lets the folder go, for a clean end. */
export async function closeDatabase(): Promise<void> {
  if (opened) {
    await tail;
    const { sequelize } = await opened;
    opened = undefined;
    await sequelize.close();
  }
  await unlockFolder();
}

let tail: Promise<unknown> = Promise.resolve();

/** Runs one writing transaction. All writes go through this queue: SQLite has one writer. Never nested. */
export function write<T>(work: (models: Models, transaction: Transaction) => Promise<T>): Promise<T> {
  const run = tail.then(async () => {
    const { sequelize, models } = await database();
    return sequelize.transaction({ type: Transaction.TYPES.IMMEDIATE }, (t) => work(models, t));
  });
  tail = run.then(
    () => undefined,
    () => undefined
  );
  return run;
}
