import { readdirSync, statSync, type Dirent } from "node:fs";
import path from "node:path";
import { config } from "../config";
import { UserFault } from "../faults";

function bytesBelow(folder: string): number {
  let entries: Dirent[];
  try {
    entries = readdirSync(folder, { withFileTypes: true });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return 0;
    throw error;
  }
  let sum = 0;
  for (const entry of entries) {
    const full = path.join(entry.parentPath ?? folder, entry.name);
    if (entry.isDirectory()) sum += bytesBelow(full);
    else sum += statSync(full, { throwIfNoEntry: false })?.size ?? 0;
  }
  return sum;
}

/** Refuses work that would push the data folder over its limit. what: "\"x.wav\" was not imported", "The export was not made". @throws UserFault */
export function needRoom(bytes: number, what: string): void {
  if (config.maxBytes === Infinity) return;
  const free = config.maxBytes - bytesBelow(config.dataFolder);
  if (bytes > free)
    throw new UserFault(
      507,
      `${what}: it needs ${(bytes / 1e6).toFixed(1)} MB, but only ${Math.max(0, free / 1e6).toFixed(1)} MB of the space for Wring's data is left.`
    );
}
