import type { RequestEvent } from "./$types";
import { editsSchema } from "$lib/api/types";
import { UserFault } from "$lib/server/faults";
import { body, route } from "$lib/server/http";
import { edit, entriesSince } from "$lib/server/services/edits";
import { needProject } from "$lib/server/services/projects";

/** Makes edits. */
export const POST = route(async (event: RequestEvent) =>
  edit(event.params.id, await body(event, editsSchema))
);

/** What was accepted after a revision. */
export const GET = route(async (event: RequestEvent) => {
  const after = Number(event.url.searchParams.get("after"));
  if (!Number.isInteger(after) || after < 0) throw new UserFault(400, "after: must be a revision.");
  await needProject(event.params.id);
  return entriesSince(event.params.id, after);
});
