import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { takeShortFiles } from "$lib/server/shortFiles";

/** Takes many short files, each to be imported. */
export const POST = route(async ({ params, request }: RequestEvent) =>
  takeShortFiles(params.id, new Uint8Array(await request.arrayBuffer()))
);
