import { createReadStream, existsSync, statSync } from "node:fs";
import { Readable } from "node:stream";
import type { RequestEvent } from "./$types";
import type { ExportView } from "$lib/api/types";
import { UserFault } from "$lib/server/faults";
import { route } from "$lib/server/http";
import { exportPath } from "$lib/server/jobs/handlers";
import { findJob } from "$lib/server/jobs/jobs";

/** The file that an export made. */
export const GET = route(async (event: RequestEvent) => {
  const job = await findJob(event.params.id);
  const file = exportPath(job.id);
  if (job.kind !== "export" || job.state !== "done" || !existsSync(file))
    throw new UserFault(404, "The exported file is no longer kept. Export the mix again.");
  const { fileName } = job.result as ExportView;
  return new Response(Readable.toWeb(createReadStream(file)) as ReadableStream, {
    headers: {
      "content-type": "audio/wav",
      "content-length": String(statSync(file).size),
      "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`
    }
  });
});
