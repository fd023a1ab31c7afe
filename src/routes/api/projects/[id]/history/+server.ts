import type { RequestEvent } from "./$types";
import { newRecomputeSchema } from "$lib/api/processes";
import { body, route } from "$lib/server/http";
import { startRecompute } from "$lib/server/jobs/recompute";

/** Changes what made a clip's sound; the rest is computed again. */
export const POST = route(async (event: RequestEvent) =>
  startRecompute(event.params.id, await body(event, newRecomputeSchema))
);
