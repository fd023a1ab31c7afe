import { existsSync } from "node:fs";
import type { RequestEvent } from "./$types";
import type { DeliveredFile } from "$lib/api/delivery";
import { CODINGS } from "$lib/core/delivery/codings";
import { deliveredPath } from "$lib/server/jobs/kinds/deliver";
import type { ExportView } from "$lib/api/jobs";
import { UserFault } from "$lib/server/faults";
import { fileResponse, route } from "$lib/server/http";
import { exportPath } from "$lib/server/jobs/kinds/export";
import { queue } from "$lib/server/jobs/queue";

/** The file that an export or a delivery made, or a part of it. */
export const GET = route(async (event: RequestEvent) => {
  const job = await queue.find(event.params.id);
  const file = job.kind === "deliver" ? deliveredPath(job.id) : exportPath(job.id);
  if (!["export", "deliver"].includes(job.kind) || job.state !== "done" || !file || !existsSync(file))
    throw new UserFault(404, "The exported file is no longer kept. Export it again.");
  const { fileName } = job.result as ExportView | DeliveredFile;
  const coding = Object.values(CODINGS).find(({ extension }) => file.endsWith(`.${extension}`));
  return fileResponse(event.request, file, {
    "content-type": coding?.mediaType ?? "audio/wav",
    "content-disposition": `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`
  });
});
