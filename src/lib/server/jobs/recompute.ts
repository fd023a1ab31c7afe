import type { JobView } from "$lib/api/jobs";
import type { NewRecompute } from "$lib/api/processes";
import { findClip } from "$lib/core/session/lookup";
import { historyOf, recomputed } from "$lib/core/session/processes";
import { UserFault } from "../faults";
import { loadProject } from "../services/projects";
import { queue } from "./queue";
import { wake } from "./runner";

/** Orders that a clip's history is computed again with changed processes. @throws UserFault with why it cannot be */
export async function startRecompute(projectId: string, wanted: NewRecompute): Promise<JobView> {
  const { document } = await loadProject(projectId);
  const clip = findClip(document, wanted.clipId)?.clip;
  if (!clip) throw new UserFault(404, "The clip is no longer there.");
  const stages = recomputed(historyOf(document, clip), wanted.changes);
  if (typeof stages === "string") throw new UserFault(422, stages);
  const title = `Change the history of ${clip.name}`;
  const [job] = await queue.enqueueAll([
    { projectId, kind: "recompute", title, order: { kind: "recompute", ...wanted } }
  ]);
  if (!job) throw new Error("The queue took nothing.");
  wake();
  return job;
}
