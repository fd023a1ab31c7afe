// What has been heard and is kept: levels and lessons, small, and the sound behind a step of a long part, large. All of it is a
// cache: named by the hash of all that it depends on, and made anew when it is missing.
import { createHash } from "node:crypto";
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync
} from "node:fs";
import path from "node:path";
import { config } from "../config";
import { log } from "../log";
import { freeBytes, whenShort } from "./space";

const DAY_MS = 86400000;
const LEVEL_DAYS = 60;
const POINT_DAYS = 1;
/** Most sound that is kept, and the share of what is free that it may take. */
const MOST_POINT_BYTES = 3e9;
const SHARE_OF_FREE = 0.2;

/** Folder of all that has been heard. */
export function heardFolder(data: string): string {
  return path.join(data, "heard");
}

function pointsFolder(): string {
  return path.join(heardFolder(config.dataFolder), "points");
}

/** Name of what depends on these values alone. */
export function keyOf(...values: readonly unknown[]): string {
  return createHash("sha256").update(JSON.stringify(values)).digest("hex");
}

function levelFile(key: string): string {
  return path.join(heardFolder(config.dataFolder), key.slice(0, 2), `${key}.json`);
}

/** What is kept under a key; undefined when nothing is, or when it cannot be read. */
export function heard<T>(key: string): T | undefined {
  const file = levelFile(key);
  if (!existsSync(file)) return undefined;
  try {
    return JSON.parse(readFileSync(file, "utf8")) as T;
  } catch (error) {
    log.warn({ file, error: String(error) }, "a kept measurement cannot be read; it is made anew");
    rmSync(file, { force: true });
    return undefined;
  }
}

export function keepHeard(key: string, value: unknown): void {
  const file = levelFile(key);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, JSON.stringify(value));
}

function pointFile(key: string): string {
  return path.join(pointsFolder(), `${key}.sound`);
}

/** The file with the sound of a key, if it is there; it counts as used now. */
export function pointOf(key: string): string | undefined {
  const file = pointFile(key);
  if (!existsSync(file)) return undefined;
  const now = new Date();
  utimesSync(file, now, now);
  return file;
}

/** A file for the sound of a key, with room made for it; undefined when there is not enough. */
export function roomForPoint(key: string, bytes: number): string | undefined {
  const most = Math.min(MOST_POINT_BYTES, freeBytes() * SHARE_OF_FREE + pointBytes());
  if (bytes > most) return undefined;
  mkdirSync(pointsFolder(), { recursive: true });
  for (const { file } of points().reverse()) {
    if (pointBytes() + bytes <= most) break;
    rmSync(file, { force: true });
  }
  return pointFile(key);
}

/** The kept sounds, the last used first. */
function points(): { file: string; bytes: number; used: number }[] {
  const folder = pointsFolder();
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .map((name) => {
      const file = path.join(folder, name);
      const { size, mtimeMs } = statSync(file);
      return { file, bytes: size, used: mtimeMs };
    })
    .sort((a, b) => b.used - a.used);
}

function pointBytes(): number {
  return points().reduce((sum, { bytes }) => sum + bytes, 0);
}

/** Kept sound makes way for whatever needs room. */
function dropPoints(): boolean {
  const all = points();
  for (const { file } of all) rmSync(file, { force: true });
  return all.length > 0;
}

whenShort(dropPoints);

/** Removes what has not been used for long. */
export function clearHeard(): void {
  const now = Date.now();
  for (const { file, used } of points()) if (now - used > POINT_DAYS * DAY_MS) rmSync(file, { force: true });
  const folder = heardFolder(config.dataFolder);
  if (!existsSync(folder)) return;
  for (const part of readdirSync(folder)) {
    if (!/^[0-9a-f]{2}$/.test(part)) continue;
    for (const name of readdirSync(path.join(folder, part))) {
      const file = path.join(folder, part, name);
      if (now - statSync(file).mtimeMs > LEVEL_DAYS * DAY_MS) rmSync(file, { force: true });
    }
  }
}
