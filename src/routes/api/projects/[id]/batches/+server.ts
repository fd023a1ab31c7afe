import type { RequestEvent } from "./$types";
import { newBatchSchema } from "$lib/api/batches";
import { body, route } from "$lib/server/http";
import { batchesOf, orderBatch } from "$lib/server/services/batches";

export const GET = route((event: RequestEvent) => batchesOf(event.params.id));

export const POST = route(async (event: RequestEvent) =>
  orderBatch(event.params.id, await body(event, newBatchSchema))
);
