import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { deletePreset } from "$lib/server/services/presets";

export const DELETE = route((event: RequestEvent) => deletePreset(event.params.id));
