import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { checkRecording } from "$lib/server/services/condition";
import { findRecordingRow } from "$lib/server/services/recordings";

/** Compares a recording's file with its hash. */
export const POST = route(async (event: RequestEvent) => {
  const row = await findRecordingRow(event.params.id);
  return { state: await checkRecording(row.id, row.hash) };
});
