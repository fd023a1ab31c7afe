import type { RequestEvent } from "./$types";
import { presetFactsSchema } from "$lib/api/presets";
import { body, route } from "$lib/server/http";
import { deletePreset, setPreset } from "$lib/server/services/presets";

export const PATCH = route(async (event: RequestEvent) =>
  setPreset(event.params.id, await body(event, presetFactsSchema))
);

export const DELETE = route((event: RequestEvent) => deletePreset(event.params.id));
