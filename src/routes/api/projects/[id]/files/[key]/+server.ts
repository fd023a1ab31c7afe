import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { giveUpShortFile } from "$lib/server/shortFiles";

/** Gives a file up that was sent, or is on its way. */
export const DELETE = route(async ({ params }: RequestEvent) => giveUpShortFile(params.key));
