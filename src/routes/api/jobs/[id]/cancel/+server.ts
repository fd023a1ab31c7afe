import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { cancelJob } from "$lib/server/jobs/runner";

export const POST = route((event: RequestEvent) => cancelJob(event.params.id));
