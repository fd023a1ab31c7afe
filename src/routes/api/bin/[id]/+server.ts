import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { destroyProject } from "$lib/server/services/projects";

/** Removes a project that is in the bin for good. */
export const DELETE = route((event: RequestEvent) => destroyProject(event.params.id));
