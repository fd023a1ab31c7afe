import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { deleteFadePreset } from "$lib/server/services/fadePresets";

export const DELETE = route((event: RequestEvent) => deleteFadePreset(event.params.id));
