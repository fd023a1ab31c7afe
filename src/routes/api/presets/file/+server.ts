import type { RequestEvent } from "./$types";
import { presetsFileTextSchema } from "$lib/api/presets";
import { body, route } from "$lib/server/http";
import { addPresetsFile, presetsFile } from "$lib/server/services/presetFiles";

/** Presets by their ids, as a file. */
export const GET = route(async (event: RequestEvent) => {
  const ids = event.url.searchParams.getAll("id");
  return new Response(await presetsFile(ids), {
    headers: {
      "content-type": "application/json",
      "content-disposition": 'attachment; filename="Presets.json"'
    }
  });
});

export const POST = route(async (event: RequestEvent) => {
  const { fileName, text } = await body(event, presetsFileTextSchema);
  return addPresetsFile(fileName, text);
});
