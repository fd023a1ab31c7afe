import type { RequestEvent } from "./$types";
import { editSchema } from "$lib/api/types";
import { body, route } from "$lib/server/http";
import { edit } from "$lib/server/services/edits";

export const POST = route(async (event: RequestEvent) => {
  const { revision, command } = await body(event, editSchema);
  return edit(event.params.id, revision, command);
});
