/** Something the user should read: one sentence, with the status that a route answers. */
export class UserFault extends Error {
  constructor(
    readonly status: number,
    message: string
  ) {
    super(message);
  }
}

const FULL = "The disk is full. Nothing was changed; make room and try again.";
const READ_ONLY = "The data folder cannot be written to. Nothing was changed.";

const SENTENCES: Record<string, string> = {
  ENOSPC: FULL,
  EDQUOT: FULL,
  SQLITE_FULL: FULL,
  EACCES: READ_ONLY,
  EPERM: READ_ONLY,
  EROFS: READ_ONLY,
  SQLITE_READONLY: READ_ONLY,
  SQLITE_CANTOPEN: READ_ONLY,
  SQLITE_IOERR: "The data folder's disk has a fault: it could not be read or written. Nothing was changed.",
  EIO: "The data folder's disk has a fault: it could not be read or written. Nothing was changed.",
  SQLITE_CORRUPT: "The database is damaged. Stop Wring and start it again: it then offers its backups.",
  SQLITE_NOTADB: "The database is damaged. Stop Wring and start it again: it then offers its backups."
};

/** The system's or the database's code behind an error, as Sequelize wraps it or as it is. */
export function codeOf(error: unknown): string | undefined {
  const { code, original, parent } = (error ?? {}) as {
    code?: string;
    original?: { code?: string };
    parent?: { code?: string };
  };
  return original?.code ?? parent?.code ?? code;
}

/** What people read of an error that is no one's to read. */
export const UNKNOWN_FAULT = "Something went wrong in Wring. Nothing was changed.";

/** Whether there was no room to write. */
export function isFull(error: unknown): boolean {
  return ["ENOSPC", "EDQUOT", "SQLITE_FULL"].includes(codeOf(error) ?? "");
}

/** A sentence for an error of the file system, the database or the core; undefined when the error is no one's to read. */
export function sentenceOf(error: unknown): string | undefined {
  if (error instanceof UserFault) return error.message;
  return SENTENCES[codeOf(error) ?? ""];
}
