import { Readable } from "node:stream";
import type { RequestEvent } from "./$types";
import { timelineBundle } from "$lib/server/archive/writeTimeline";
import { route } from "$lib/server/http";

/** The timeline as a bundle of OpenTimelineIO. */
export const GET = route(async (event: RequestEvent) => {
  const { name, stream } = await timelineBundle(event.params.id);
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      "content-type": "application/zip",
      "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(name)}`
    }
  });
});
