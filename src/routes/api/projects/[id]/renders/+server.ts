import type { RequestEvent } from "./$types";
import { newRendersSchema } from "$lib/api/renders";
import { body, route } from "$lib/server/http";
import { startRenders } from "$lib/server/jobs/renders";

export const POST = route(async (event: RequestEvent) =>
  startRenders(event.params.id, await body(event, newRendersSchema))
);
