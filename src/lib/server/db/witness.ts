// A second note of what was confirmed, beside the database: which revision every project has reached. A database that comes back
// older than it was (a write-ahead log cut short, an old copy put in its place) is whole to SQLite; this tells.
//
//   confirmed: one line of 60 bytes a project: id padded to 48, revision padded to 11, newline
import { closeSync, existsSync, openSync, readFileSync, rmSync, writeSync } from "node:fs";
import path from "node:path";
import { config } from "../config";

const ID = 48;
const LINE = 60;

let fd: number | undefined;
const places = new Map<string, number>();

function file(): string {
  return path.join(config.dataFolder, "confirmed");
}

function lineOf(id: string, revision: number): string {
  return `${id.padEnd(ID)}${String(revision).padStart(LINE - ID - 1)}\n`;
}

/** What was noted before: revisions by project. Lines that are not whole are passed over. */
export function readWitness(): Map<string, number> {
  const noted = new Map<string, number>();
  if (!existsSync(file())) return noted;
  for (const line of readFileSync(file(), "latin1").split("\n")) {
    const revision = Number(line.slice(ID));
    if (line.length === LINE - 1 && Number.isInteger(revision)) noted.set(line.slice(0, ID).trim(), revision);
  }
  return noted;
}

/** Begins anew with what the database holds now. */
export function beginWitness(revisions: ReadonlyMap<string, number>): void {
  endWitness();
  rmSync(file(), { force: true });
  fd = openSync(file(), "w");
  for (const [id, revision] of revisions) noteConfirmed(id, revision);
}

/** Notes that a project has reached a revision. Not synced: after a power cut it may be behind, which harms no one. */
export function noteConfirmed(id: string, revision: number): void {
  if (fd === undefined) return;
  let place = places.get(id);
  if (place === undefined) places.set(id, (place = places.size));
  writeSync(fd, lineOf(id, revision), place * LINE, "latin1");
}

export function endWitness(): void {
  if (fd !== undefined) closeSync(fd);
  fd = undefined;
  places.clear();
}

/** A project that came back older than it was confirmed to be. */
export interface LostChanges {
  readonly id: string;
  readonly name: string;
  readonly changes: number;
}

/** Projects that lie behind what was noted. */
export function lostChanges(
  noted: ReadonlyMap<string, number>,
  projects: readonly { readonly id: string; readonly name: string; readonly revision: number }[]
): LostChanges[] {
  return projects.flatMap(({ id, name, revision }) => {
    const changes = (noted.get(id) ?? 0) - revision;
    return changes > 0 ? [{ id, name, changes }] : [];
  });
}
