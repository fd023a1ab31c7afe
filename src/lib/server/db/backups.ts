// Copies of the database, made by SQLite's own means while it is worked with; the newest five are kept.
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, copyFileSync } from "node:fs";
import path from "node:path";
import { config } from "../config";
import { UserFault } from "../faults";
import { closeDatabase, database, databaseFile } from "./connection";

export const KEPT_BACKUPS = 5;
const EVERY_MS = 3600000;
let last = Date.now();
let lastChange = "";

function folder(): string {
  return path.join(config.dataFolder, "backups");
}

export interface Backup {
  readonly name: string;
  readonly bytes: number;
  readonly madeAt: string;
}

/** Backups that there are, the newest first. */
export function listBackups(): Backup[] {
  if (!existsSync(folder())) return [];
  return readdirSync(folder())
    .filter((name) => /^wring-[0-9TZ-]+\.sqlite$/.test(name))
    .sort()
    .reverse()
    .map((name) => {
      const { size, mtime } = statSync(path.join(folder(), name));
      return { name, bytes: size, madeAt: mtime.toISOString() };
    });
}

/** Something that is another after every change of the database. */
async function changeMark(): Promise<string> {
  const { models } = await database();
  const [projects, jobs, presets] = await Promise.all([
    models.Project.sum("revision"),
    models.Job.count(),
    models.Preset.count()
  ]);
  return `${projects ?? 0} ${await models.Project.count()} ${jobs} ${presets}`;
}

/** Makes a backup now. Returns its name. */
export async function makeBackup(now = new Date()): Promise<string> {
  const { sequelize } = await database();
  mkdirSync(folder(), { recursive: true });
  const name = `wring-${now.toISOString().replace(/[:.]/g, "-")}.sqlite`;
  const part = path.join(folder(), `${name}.part`);
  rmSync(part, { force: true });
  try {
    await sequelize.query("VACUUM INTO $part", { bind: { part } });
    renameSync(part, path.join(folder(), name));
  } finally {
    rmSync(part, { force: true });
  }
  for (const { name: old } of listBackups().slice(KEPT_BACKUPS))
    rmSync(path.join(folder(), old), { force: true });
  return name;
}

/** Makes a backup when the database has changed and an hour has passed, or at once when it is being closed. */
export async function backupIfDue(closing = false, now = Date.now()): Promise<string | undefined> {
  if (!closing && now - last < EVERY_MS) return undefined;
  const mark = await changeMark();
  if (mark === lastChange || (lastChange === "" && mark.startsWith("0 0 "))) return undefined;
  const name = await makeBackup(new Date(now));
  last = now;
  lastChange = mark;
  return name;
}

/** Notes what the database holds at the start: only later changes make a backup due. */
export async function beginBackups(): Promise<void> {
  last = Date.now();
  lastChange = listBackups().length > 0 ? await changeMark() : "";
}

/**
 * Puts a backup in place of the database; the damaged one is kept beside it under another name.
 * @throws UserFault 404 when there is no such backup
 */
export async function restoreBackup(name: string): Promise<void> {
  if (!listBackups().some((backup) => backup.name === name))
    throw new UserFault(404, "There is no such backup.");
  await closeDatabase().catch(() => undefined);
  const aside = `.damaged-${new Date().toISOString().replace(/[:.]/g, "-")}`;
  for (const end of ["", "-wal", "-shm"]) {
    const file = `${databaseFile()}${end}`;
    if (existsSync(file)) renameSync(file, `${databaseFile()}${aside}${end}`);
  }
  copyFileSync(path.join(folder(), name), databaseFile());
  await database();
}
