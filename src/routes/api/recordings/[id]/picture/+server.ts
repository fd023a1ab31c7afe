import { existsSync } from "node:fs";
import type { RequestEvent } from "./$types";
import { config } from "$lib/server/config";
import { UserFault } from "$lib/server/faults";
import { fileResponse, route } from "$lib/server/http";
import { picturePath } from "$lib/server/media/paths";
import { findRecordingRow } from "$lib/server/services/recordings";

/** The small copy of a video's picture, or a part of it. */
export const GET = route(async (event: RequestEvent) => {
  const { hash } = await findRecordingRow(event.params.id);
  const file = picturePath(config.dataFolder, hash);
  if (!existsSync(file)) throw new UserFault(404, "No copy of the video's picture has been made yet.");
  return fileResponse(event.request, file, { "content-type": "video/mp4" });
});
