import { newPresetSchema } from "$lib/api/presets";
import { body, route } from "$lib/server/http";
import { allPresets, savePreset } from "$lib/server/services/presets";

export const GET = route(() => allPresets());

export const POST = route(async (event) => savePreset(await body(event, newPresetSchema)));
