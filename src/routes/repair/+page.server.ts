import { redirect } from "@sveltejs/kit";
import { condition } from "$lib/server/condition";
import { listBackups } from "$lib/server/db/backups";

export const load = () => {
  if (condition.damaged === null) redirect(303, "/");
  return { sentence: condition.damaged, backups: listBackups() };
};
