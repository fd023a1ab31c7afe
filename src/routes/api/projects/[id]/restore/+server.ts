import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { restoreProject } from "$lib/server/services/projects";

/** Takes a project out of the bin. */
export const POST = route((event: RequestEvent) => restoreProject(event.params.id));
