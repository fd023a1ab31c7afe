// Orders of pages, made into jobs.
import type { JobView, NewJob } from "$lib/api/jobs";
import { programmeOver } from "$lib/core/render/graph";
import { findClip } from "$lib/core/session/lookup";
import { UserFault } from "../faults";
import { loadProject } from "../services/projects";
import { queue, type NewOrder } from "./queue";
import { wake } from "./runner";

async function orderOf(projectId: string, wanted: NewJob): Promise<NewOrder> {
  const { document } = await loadProject(projectId);
  if (wanted.kind === "export") {
    const end = Math.max(programmeOver(document), 1);
    if (wanted.to <= wanted.from) throw new UserFault(422, "The range to export is empty.");
    // A range may end behind the last clip, but not by more than the programme is long.
    if (wanted.to > 2 * end + 600 * document.sampleRate)
      throw new UserFault(422, "The range to export ends far behind the programme.");
    const order = { ...wanted, document: document.toJson() };
    return { projectId, kind: "export", title: `Export ${document.name}`, order };
  }
  const clip = findClip(document, wanted.clipId)?.clip;
  if (!clip) throw new UserFault(404, "The clip is no longer there.");
  if (wanted.kind === "measure")
    return { projectId, kind: "measure", title: `Measure ${clip.name}`, order: { kind: "measure", clip } };
  if (!clip.steps.some((s) => s.on))
    throw new UserFault(422, `"${clip.name}" has no step that is on: there is nothing to render.`);
  const { handleSeconds, tail } = wanted;
  return {
    projectId,
    kind: "render",
    title: `Render ${clip.name}`,
    order: { kind: "render", clip, handleSeconds, tail }
  };
}

/** Puts a job into the queue. @throws UserFault when it asks for what is not there */
export async function startJob(projectId: string, wanted: NewJob): Promise<JobView> {
  const job = await queue.enqueue(await orderOf(projectId, wanted));
  wake();
  return job;
}

/** Puts the import of a finished upload into the queue. */
export async function startImport(projectId: string, uploadId: string, fileName: string): Promise<JobView> {
  const order = { kind: "import", uploadId, fileName };
  const job = await queue.enqueue({ projectId, kind: "import", title: `Import ${fileName}`, order });
  wake();
  return job;
}
