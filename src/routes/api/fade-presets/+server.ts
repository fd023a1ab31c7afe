import { fadePresetsSchema } from "$lib/api/fades";
import { body, route } from "$lib/server/http";
import { listFadePresets, saveFadePresets } from "$lib/server/services/fadePresets";

export const GET = route(() => listFadePresets());

export const POST = route(async (event) => saveFadePresets(await body(event, fadePresetsSchema)));
