import { existsSync } from "node:fs";
import type { RequestEvent } from "./$types";
import type { ExportView } from "$lib/api/jobs";
import { UserFault } from "$lib/server/faults";
import { fileResponse, route } from "$lib/server/http";
import { exportPath } from "$lib/server/jobs/kinds/export";
import { queue } from "$lib/server/jobs/queue";

/** The file that an export made, or a part of it. */
export const GET = route(async (event: RequestEvent) => {
  const job = await queue.find(event.params.id);
  const file = exportPath(job.id);
  if (job.kind !== "export" || job.state !== "done" || !existsSync(file))
    throw new UserFault(404, "The exported file is no longer kept. Export the mix again.");
  const { fileName } = job.result as ExportView;
  return fileResponse(event.request, file, {
    "content-type": "audio/wav",
    "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`
  });
});
