import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { queue } from "$lib/server/jobs/queue";

export const GET = route((event: RequestEvent) => queue.find(event.params.id));
