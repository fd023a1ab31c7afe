import type { RequestEvent } from "./$types";
import { immutableBytes, route } from "$lib/server/http";
import { chunkBytes } from "$lib/server/services/audio";

export const GET = route(async ({ params }: RequestEvent) =>
  immutableBytes(await chunkBytes(params.id, Number(params.rate), Number(params.chunk)))
);
