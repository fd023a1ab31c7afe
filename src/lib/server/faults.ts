/** Something the user should read: one sentence, with the status that a route answers. */
export class UserFault extends Error {
  constructor(
    readonly status: number,
    message: string
  ) {
    super(message);
  }
}

/** A sentence for an error of the file system or the core; undefined when the error is no one's to read. */
export function sentenceOf(error: unknown): string | undefined {
  if (error instanceof UserFault) return error.message;
  const code = (error as NodeJS.ErrnoException | undefined)?.code;
  if (code === "ENOSPC") return "The disk is full. Nothing was changed; make room and try again.";
  if (code === "EACCES" || code === "EROFS")
    return "The data folder cannot be written to. Nothing was changed.";
  return undefined;
}
