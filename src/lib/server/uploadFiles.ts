import { lstatSync } from "node:fs";
import path from "node:path";
import { config } from "./config";
import { UserFault } from "./faults";
import { uploadsFolder } from "./media/paths";

/** A name for people is kept up to this length. */
export const MOST_FILE_NAME = 300;

/**
 * The file of an upload, by the id that the server gave it.
 * @throws UserFault 404 for what is no such id, or is a link to somewhere else
 */
export function uploadFile(uploadId: string): string {
  if (!/^[0-9a-f]{16,64}$/.test(uploadId)) throw new UserFault(404, "There is no such upload.");
  const file = path.join(uploadsFolder(config.dataFolder), uploadId);
  const found = lstatSync(file, { throwIfNoEntry: false });
  if (found && !found.isFile()) throw new UserFault(404, "There is no such upload.");
  return file;
}
