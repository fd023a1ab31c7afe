import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { cancelBatch } from "$lib/server/services/batches";

export const POST = route((event: RequestEvent) => cancelBatch(event.params.id, event.params.batch));
