import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { findJob } from "$lib/server/jobs/jobs";

export const GET = route((event: RequestEvent) => findJob(event.params.id));
