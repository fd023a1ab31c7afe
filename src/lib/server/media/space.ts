// How much room there is for Wring's data, and who has been promised some of it.
import { mkdirSync, readdirSync, statfsSync, statSync, type Dirent } from "node:fs";
import path from "node:path";
import { config } from "../config";
import { UserFault } from "../faults";
import { bytesText } from "../units";

/** Bytes of all files in a folder and below; 0 when it is not there. */
export function bytesBelow(folder: string): number {
  let entries: Dirent[];
  try {
    entries = readdirSync(folder, { withFileTypes: true });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return 0;
    throw error;
  }
  let sum = 0;
  for (const entry of entries) {
    const full = path.join(folder, entry.name);
    if (entry.isDirectory()) sum += bytesBelow(full);
    else sum += statSync(full, { throwIfNoEntry: false })?.size ?? 0;
  }
  return sum;
}

interface Promised {
  readonly bytes: number;
  /** What of it has been written by now. */
  spent(): number;
}

const promised = new Set<Promised>();

function outstanding(): number {
  let sum = 0;
  for (const { bytes, spent } of promised) sum += Math.max(0, bytes - spent());
  return sum;
}

/** A count of all files takes time, the more the more there are: one that is this new will do where most of the limit is free. */
const COUNT_LASTS_MS = 1000;
const FAR = 0.1;
let counted = { bytes: 0, at: -Infinity };

/** Bytes that the limit leaves; exact where less than a tenth of it would be left once so many are taken. */
function ofLimit(wanted: number): number {
  if (config.maxBytes === Infinity) return Infinity;
  const left = () => config.maxBytes - counted.bytes - outstanding();
  if (performance.now() - counted.at > COUNT_LASTS_MS || left() - wanted < FAR * config.maxBytes)
    counted = { bytes: bytesBelow(config.dataFolder), at: performance.now() };
  return left();
}

/** Bytes that may still be promised: of the limit, and of the disk. */
function free(wanted = 0): { readonly bytes: number; readonly of: string } {
  mkdirSync(config.dataFolder, { recursive: true });
  const { bavail, bsize } = statfsSync(config.dataFolder);
  const disk = bavail * bsize - outstanding();
  const limit = ofLimit(wanted);
  return limit < disk ? { bytes: limit, of: "the space for Wring's data" } : { bytes: disk, of: "the disk" };
}

let giveWay: () => boolean = () => false;

/** @param give removes what is kept without need, when room is short; says whether there was any */
export function whenShort(give: () => boolean): void {
  giveWay = give;
}

/** Bytes that are free, for what can be done without. */
export function freeBytes(): number {
  return Math.max(0, free().bytes);
}

/**
 * Promises room for work that is about to write. Give it back when the work has ended, however it ended.
 * @param what that was not done: "\"x.wav\" was not imported", "The export was not made"
 * @param spent bytes of it that have been written by now
 * @throws UserFault 507 when there is not so much
 */
export function reserve(bytes: number, what: string, spent: () => number = () => 0): () => void {
  let room = free(bytes);
  if (bytes > room.bytes && giveWay()) room = free(bytes);
  if (bytes > room.bytes)
    throw new UserFault(
      507,
      `${what}: it needs ${bytesText(bytes)}, but only ${bytesText(Math.max(0, room.bytes))} of ${room.of} is left.`
    );
  return reserveAgain(bytes, spent);
}

/** Room that was promised before a restart: it counts whether there is as much or not. */
export function reserveAgain(bytes: number, spent: () => number): () => void {
  const promise = { bytes, spent };
  promised.add(promise);
  return () => {
    // Until all is counted again it counts as written.
    if (promised.delete(promise)) counted.bytes += bytes;
  };
}
