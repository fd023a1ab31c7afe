import { existsSync } from "node:fs";
import type { RequestEvent } from "./$types";
import { config } from "$lib/server/config";
import { UserFault } from "$lib/server/faults";
import { fileResponse, route } from "$lib/server/http";
import { sourcePath } from "$lib/server/media/paths";
import { findRecordingRow } from "$lib/server/services/recordings";

/** The file that a recording was decoded from, or a part of it: a video, for its picture. Browsers look at what it is. */
export const GET = route(async (event: RequestEvent) => {
  const { hash } = await findRecordingRow(event.params.id);
  const file = sourcePath(config.dataFolder, hash);
  if (!existsSync(file)) throw new UserFault(404, "The video of the recording is not kept.");
  return fileResponse(event.request, file, { "content-type": "application/octet-stream" });
});
