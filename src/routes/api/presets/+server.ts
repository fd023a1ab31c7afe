import { newPresetSchema } from "$lib/api/types";
import { body, route } from "$lib/server/http";
import { listPresets, savePreset } from "$lib/server/services/presets";

export const GET = route(() => listPresets());

export const POST = route(async (event) => savePreset(await body(event, newPresetSchema)));
