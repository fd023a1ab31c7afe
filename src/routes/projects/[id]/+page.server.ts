import type { PageServerLoad } from "./$types";
import { orErrorPage } from "$lib/server/http";
import { projectState } from "$lib/server/services/projects";

export const load: PageServerLoad = async ({ params }) => ({
  state: await orErrorPage(projectState(params.id))
});
