import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { deleteProject, projectState } from "$lib/server/services/projects";

export const GET = route((event: RequestEvent) => projectState(event.params.id));

export const DELETE = route((event: RequestEvent) => deleteProject(event.params.id));
