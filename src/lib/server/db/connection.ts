import { mkdirSync } from "node:fs";
import path from "node:path";
import { Sequelize, Transaction } from "sequelize";
import { config } from "../config";
import { migrate } from "./migrations";
import { defineModels, type Models } from "./models";

interface Database {
  readonly sequelize: Sequelize;
  readonly models: Models;
}

let opened: Promise<Database> | undefined;

async function open(): Promise<Database> {
  mkdirSync(config.dataFolder, { recursive: true });
  const sequelize = new Sequelize({
    dialect: "sqlite",
    storage: path.join(config.dataFolder, "wring.sqlite"),
    logging: false
  });
  await sequelize.query("PRAGMA journal_mode = WAL");
  await sequelize.query("PRAGMA synchronous = FULL");
  await migrate(sequelize);
  return { sequelize, models: defineModels(sequelize) };
}

/** The database of the data folder; opened and brought up to date by the first call. */
export function database(): Promise<Database> {
  opened ??= open();
  return opened;
}

/** Closes the database, for a clean end. */
export async function closeDatabase(): Promise<void> {
  if (!opened) return;
  const { sequelize } = await opened;
  opened = undefined;
  await sequelize.close();
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
