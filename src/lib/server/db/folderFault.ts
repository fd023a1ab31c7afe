/** Why the data folder cannot be worked with at all: a sentence for the one who starts Wring. */
export class FolderFault extends Error {}

/** The database is there but cannot be read. */
export class DamagedDatabase extends FolderFault {}

const SENTENCES: Record<string, string> = {
  EACCES: "may not be written to",
  EPERM: "may not be written to",
  EROFS: "lies on a file system that is read-only",
  SQLITE_READONLY: "may not be written to",
  SQLITE_CANTOPEN: "may not be written to",
  ENOSPC: "lies on a full disk: make room first",
  SQLITE_FULL: "lies on a full disk: make room first",
  ENOTDIR: "is no folder",
  EEXIST: "is no folder"
};

/** The fault of a folder behind an error of the system or the database; undefined when it is something else. */
export function folderFault(folder: string, error: unknown): FolderFault | undefined {
  if (error instanceof FolderFault) return error;
  const { code, original, parent } = error as {
    code?: string;
    original?: { code?: string };
    parent?: { code?: string };
  };
  const name = code ?? original?.code ?? parent?.code ?? "";
  if (name === "SQLITE_CORRUPT" || name === "SQLITE_NOTADB")
    return new DamagedDatabase(`The database in ${folder} is damaged.`);
  const what = SENTENCES[name];
  return what === undefined ? undefined : new FolderFault(`The data folder ${folder} ${what}.`);
}
