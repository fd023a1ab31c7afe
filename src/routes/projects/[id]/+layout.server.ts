import type { LayoutServerLoad } from "./$types";
import type { ProjectState } from "$lib/api/types";
import { sentenceOf, UNKNOWN_FAULT } from "$lib/server/faults";
import { orErrorPage } from "$lib/server/http";
import { log } from "$lib/server/log";
import { projectName, projectState } from "$lib/server/services/projects";

/** A project, or in a sentence why it cannot be opened. */
export type Opened = { readonly state: ProjectState } | { readonly fault: string };

async function opened(id: string): Promise<Opened> {
  try {
    return { state: await projectState(id) };
  } catch (error) {
    const sentence = sentenceOf(error);
    if (!sentence) log.error({ project: id, error: String((error as Error).stack ?? error) }, "page failed");
    return { fault: sentence ?? UNKNOWN_FAULT };
  }
}

/** The project's name at once; all of it while the page loads its scripts: as text, which a page reads sooner than what SvelteKit makes of objects. */
export const load: LayoutServerLoad = async ({ params: { id } }) => ({
  id,
  name: await orErrorPage(projectName(id)),
  opened: opened(id).then((value) => JSON.stringify(value))
});
