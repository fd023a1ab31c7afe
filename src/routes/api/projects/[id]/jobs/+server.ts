import type { RequestEvent } from "./$types";
import { newJobSchema } from "$lib/api/types";
import { body, route } from "$lib/server/http";
import { payloadOf } from "$lib/server/jobs/handlers";
import { openJobs, startJob } from "$lib/server/jobs/jobs";

export const GET = route((event: RequestEvent) => openJobs(event.params.id));

export const POST = route(async (event: RequestEvent) => {
  const { payload, title } = await payloadOf(event.params.id, await body(event, newJobSchema));
  return startJob(event.params.id, payload, title);
});
