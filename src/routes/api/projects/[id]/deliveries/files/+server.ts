import { Readable } from "node:stream";
import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { archiveOf } from "$lib/server/services/deliveryArchive";

/** All files of a delivery that are still kept, in one ZIP: those whose jobs are named by `job`. */
export const GET = route(async (event: RequestEvent) => {
  const { name, stream } = await archiveOf(event.params.id, event.url.searchParams.getAll("job"));
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      "content-type": "application/zip",
      "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(name)}`
    }
  });
});
