// One process at a time may work on a data folder. The lock is one of SQLite's own on a file of its own: the system lets go of it
// when the process ends, however it ends.
import { readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import sqlite3 from "sqlite3";
import { FolderFault } from "./folderFault";

interface Holder {
  readonly pid: number;
  readonly address: string | null;
  readonly since: string;
}

let held: sqlite3.Database | undefined;

function holderText(folder: string): string {
  try {
    const holder = JSON.parse(readFileSync(path.join(folder, "lock.json"), "utf8")) as Holder;
    const where = holder.address === null ? "" : ` at ${holder.address}`;
    return `process ${holder.pid}${where}, since ${holder.since.slice(0, 16).replace("T", " ")} UTC`;
  } catch {
    return "a process that did not say its name";
  }
}

function opened(file: string): Promise<sqlite3.Database> {
  return new Promise((resolve, reject) => {
    const database: sqlite3.Database = new sqlite3.Database(file, (error) =>
      error ? reject(error) : resolve(database)
    );
  });
}

function exec(database: sqlite3.Database, sql: string): Promise<void> {
  return new Promise((resolve, reject) => database.exec(sql, (error) => (error ? reject(error) : resolve())));
}

/**
 * Locks a data folder for this process; does nothing when it has it already.
 * @throws FolderFault saying who holds it
 */
export async function lockFolder(folder: string): Promise<void> {
  if (held) return;
  const database = await opened(path.join(folder, "wring.lock"));
  try {
    await exec(database, "PRAGMA busy_timeout = 0; BEGIN EXCLUSIVE");
  } catch (error) {
    database.close();
    if ((error as { code?: string }).code !== "SQLITE_BUSY") throw error;
    throw new FolderFault(
      `The data folder ${folder} is in use by another Wring: ${holderText(folder)}. End that one first, or set WRING_DATA to another folder.`
    );
  }
  held = database;
  const { PORT } = process.env;
  const holder: Holder = {
    pid: process.pid,
    address: PORT === undefined ? null : `http://127.0.0.1:${PORT}`,
    since: new Date().toISOString()
  };
  try {
    writeFileSync(path.join(folder, "lock.json"), JSON.stringify(holder));
  } catch {
    // The disk is full: the lock holds, only its holder cannot be named to others.
  }
}

/** Lets others have the folder. */
export async function unlockFolder(): Promise<void> {
  const database = held;
  held = undefined;
  if (database) await new Promise<void>((resolve) => database.close(() => resolve()));
}
