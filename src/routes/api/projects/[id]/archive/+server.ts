import { Readable } from "node:stream";
import type { RequestEvent } from "./$types";
import { archiveProject } from "$lib/server/archive/write";
import { route } from "$lib/server/http";

/** The whole project as one ZIP. */
export const GET = route(async (event: RequestEvent) => {
  const { name, stream } = await archiveProject(event.params.id);
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      "content-type": "application/zip",
      "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(name)}`
    }
  });
});
