import type { RequestEvent } from "./$types";
import { newJobSchema } from "$lib/api/jobs";
import { UserFault } from "$lib/server/faults";
import { body, route } from "$lib/server/http";
import { startJob } from "$lib/server/jobs/order";
import { queue } from "$lib/server/jobs/queue";
import { needProject } from "$lib/server/services/projects";

/** Jobs under way, and those that ended since a moment. */
export const GET = route(async (event: RequestEvent) => {
  const since = new Date(event.url.searchParams.get("since") ?? Date.now());
  if (Number.isNaN(since.getTime())) throw new UserFault(400, "since: must be a moment.");
  await needProject(event.params.id);
  return queue.ofProject(event.params.id, since);
});

export const POST = route(async (event: RequestEvent) =>
  startJob(event.params.id, await body(event, newJobSchema))
);
