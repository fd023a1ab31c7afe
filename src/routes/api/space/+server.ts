import { route } from "$lib/server/http";
import { collectUnused } from "$lib/server/services/collection";
import { spaceView } from "$lib/server/services/usage";

export const GET = route(() => spaceView());

/** Removes all recordings that nothing needs, without waiting. */
export const DELETE = route(() => collectUnused(0));
