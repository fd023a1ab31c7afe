import { spaceView } from "$lib/server/services/usage";

export const load = async () => ({ space: await spaceView() });
