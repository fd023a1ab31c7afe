// Orders of renders, made into jobs: one for each recording that is made.
import type { JobView } from "$lib/api/jobs";
import type { NewRenders } from "$lib/api/renders";
import { recipeOf, renderMatches } from "$lib/core/session/clipState";
import type { Document } from "$lib/core/session/document";
import { chainStretch } from "$lib/core/session/heard";
import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import { UserFault } from "../faults";
import { loadProject } from "../services/projects";
import { queue, type NewOrder } from "./queue";
import { wake } from "./runner";

/** All that the sound of a clip's first steps depends on. */
function sameSound(clip: ResolvedClip, upTo: number | null): string {
  const { recordingId, recordingSteps, offset, length, ringOut, fadeOut } = clip;
  const steps = recipeOf(clip.steps.slice(0, upTo ?? undefined));
  return JSON.stringify([
    recordingId,
    recipeOf(recordingSteps),
    offset,
    length,
    chainStretch(clip),
    steps,
    ringOut && [ringOut, fadeOut]
  ]);
}

function needClips(document: Document, clipIds: readonly string[]): ResolvedClip[] {
  return [...new Set(clipIds)].map((id) => {
    const clip = findClip(document, id)?.clip;
    if (!clip) throw new UserFault(404, "A clip that was to be rendered is no longer there.");
    return clip;
  });
}

type Each = Extract<NewRenders, { into: "each" }>;

function ordersOf(projectId: string, clips: readonly ResolvedClip[], wanted: Each): NewOrder[] {
  const { upTo, handles, tail, shared, name } = wanted;
  const on = (clip: ResolvedClip) => clip.steps.slice(0, upTo ?? undefined).some((step) => step.on);
  const [first] = clips;
  const treated = clips.filter(on);
  if (treated.length === 0) {
    const what = clips.length === 1 && first ? `"${first.name}" has` : "None of the clips has a";
    throw new UserFault(
      422,
      `${what} ${clips.length === 1 ? "no " : ""}step that is on: there is nothing to render.`
    );
  }
  // What is rendered already is left as it is, unless it was asked for alone.
  const needed =
    treated.length === 1 ? treated : treated.filter((clip) => upTo !== null || !renderMatches(clip));
  const groups = new Map<string, ResolvedClip[]>();
  for (const clip of needed) {
    const key = shared ? sameSound(clip, upTo) : clip.id;
    groups.set(key, [...(groups.get(key) ?? []), clip]);
  }
  return [...groups.values()].flatMap(([clip, ...also]) =>
    clip
      ? {
          projectId,
          kind: "render",
          title: also.length > 0 ? `Render ${clip.name} and ${also.length} more` : `Render ${clip.name}`,
          order: { kind: "render", clip, also: also.map(({ id }) => id), upTo, handles, tail, name }
        }
      : []
  );
}

function togetherOrder(
  projectId: string,
  document: Document,
  clips: readonly ResolvedClip[],
  name: string | null
): NewOrder {
  const title =
    clips.length === 1 ? `Render ${clips[0]?.name ?? "a clip"}` : `Render ${clips.length} clips as one`;
  const clipIds = clips.map(({ id }) => id);
  return {
    projectId,
    kind: "bounce",
    title,
    order: { kind: "bounce", document: document.toJson(), clipIds, name }
  };
}

/**
 * Puts renders into the queue.
 * @returns their jobs; none when all is rendered already
 * @throws UserFault when there is nothing to render
 */
export async function startRenders(projectId: string, wanted: NewRenders): Promise<JobView[]> {
  const { document } = await loadProject(projectId);
  const clips = needClips(document, wanted.clipIds);
  const orders =
    wanted.into === "one"
      ? [togetherOrder(projectId, document, clips, wanted.name)]
      : ordersOf(projectId, clips, wanted);
  if (orders.length === 0) return [];
  const jobs = await queue.enqueueAll(orders);
  wake();
  return jobs;
}
