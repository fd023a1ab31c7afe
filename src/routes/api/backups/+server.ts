import { z } from "zod";
import { condition } from "$lib/server/condition";
import { beginBackups, listBackups, restoreBackup } from "$lib/server/db/backups";
import { UserFault } from "$lib/server/faults";
import { begin } from "$lib/server/housekeeping";
import { body, route } from "$lib/server/http";

export const GET = route(() => Promise.resolve(listBackups()));

const restoreSchema = z.object({ name: z.string() });

/** Puts a backup in place of a damaged database. */
export const POST = route(async (event) => {
  const { name } = await body(event, restoreSchema);
  if (condition.damaged === null)
    throw new UserFault(409, "The database is not damaged, so no backup is put in its place.");
  await restoreBackup(name);
  condition.damaged = null;
  await begin();
  await beginBackups();
});
