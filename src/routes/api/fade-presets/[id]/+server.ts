import type { RequestEvent } from "./$types";
import { fadeFactsSchema } from "$lib/api/fades";
import { body, route } from "$lib/server/http";
import { deleteFadePreset, setFadePreset } from "$lib/server/services/fadePresets";

export const PATCH = route(async (event: RequestEvent) =>
  setFadePreset(event.params.id, await body(event, fadeFactsSchema))
);

export const DELETE = route((event: RequestEvent) => deleteFadePreset(event.params.id));
