import { existsSync } from "node:fs";
import type { RequestEvent } from "./$types";
import { config } from "$lib/server/config";
import { UserFault } from "$lib/server/faults";
import { fileResponse, route } from "$lib/server/http";
import { originalPath } from "$lib/server/media/paths";
import { findRecordingRow } from "$lib/server/services/recordings";

/** A recording's WAV file, or a part of it. */
export const GET = route(async (event: RequestEvent) => {
  const { hash } = await findRecordingRow(event.params.id);
  const file = originalPath(config.dataFolder, hash);
  if (!existsSync(file)) throw new UserFault(404, "The audio of the recording is missing.");
  return fileResponse(event.request, file, { "content-type": "audio/wav" });
});
