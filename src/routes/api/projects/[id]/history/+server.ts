import type { RequestEvent } from "./$types";
import { stepBackSchema } from "$lib/api/types";
import { body, route } from "$lib/server/http";
import { stepThroughHistory } from "$lib/server/services/edits";

export const POST = route(async (event: RequestEvent) => {
  const { revision, direction } = await body(event, stepBackSchema);
  return stepThroughHistory(event.params.id, revision, direction);
});
