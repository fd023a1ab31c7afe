import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { sizesOf } from "$lib/server/services/recordingBin";

/** Bytes of a project's recordings. */
export const GET = route((event: RequestEvent) => sizesOf(event.params.id));
