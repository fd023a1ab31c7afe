import type { Handle, HandleServerError, ServerInit } from "@sveltejs/kit";
import { backupIfDue, beginBackups } from "$lib/server/db/backups";
import { closeDatabase } from "$lib/server/db/connection";
import { DamagedDatabase, FolderFault } from "$lib/server/db/folderFault";
import { UNKNOWN_FAULT } from "$lib/server/faults";
import { begin, rest } from "$lib/server/housekeeping";
import { closePool } from "$lib/server/jobs/pool";
import { drained, stopRunner } from "$lib/server/jobs/runner";
import { log } from "$lib/server/log";
import { condition } from "$lib/server/condition";

/** Ends at once with a sentence: there is nothing that Wring could do for anyone. */
function refuseToStart(error: FolderFault): never {
  process.stderr.write(`${error.message}\n`);
  process.exit(1);
}

export const init: ServerInit = async () => {
  try {
    await begin();
    await beginBackups();
  } catch (error) {
    if (error instanceof DamagedDatabase) condition.damaged = error.message;
    else if (error instanceof FolderFault) refuseToStart(error);
    else throw error;
  }
  // The process around this one calls it before it ends.
  (globalThis as { wringClose?: () => Promise<void> }).wringClose = close;
};

async function close(): Promise<void> {
  rest();
  stopRunner();
  await closePool();
  await drained();
  if (condition.damaged === null)
    await backupIfDue(true).catch((error: unknown) =>
      log.error({ error: String(error) }, "backup at the end failed")
    );
  await closeDatabase();
}

/** While the database is damaged, there is one page: it offers the backups. */
export const handle: Handle = ({ event, resolve }) => {
  const { pathname } = event.url;
  if (condition.damaged === null || pathname === "/repair" || pathname.startsWith("/api/backups"))
    return resolve(event);
  if (pathname.startsWith("/api/"))
    return Promise.resolve(Response.json({ error: condition.damaged }, { status: 503 }));
  return Promise.resolve(new Response(null, { status: 303, headers: { location: "/repair" } }));
};

export const handleError: HandleServerError = ({ error, event, status }) => {
  if (status >= 500)
    log.error({ url: event.url.pathname, error: String((error as Error).stack ?? error) }, "page failed");
  return {
    message: status === 404 ? "There is no such page." : UNKNOWN_FAULT
  };
};
