// Levels of tracks and of the mix over a stretch of the timeline.
import type { AnalysisJson, ListenWish } from "$lib/api/listening";
import { heardDocument } from "$lib/core/render/compare";
import { Plan } from "$lib/core/render/graph";
import type { Document } from "$lib/core/session/document";
import type { Owner } from "$lib/core/session/owners";
import { UserFault } from "../faults";
import { run, type Tell } from "./listenTask";
import { filesOf, recordingName } from "./recordings";

/** A range may end behind the programme, but not by more than this and its length. */
const MOST_BEHIND_SECONDS = 600;

/** The stretch of the timeline over which a track or the mix is heard. @throws UserFault; empty where there is no programme */
export function stretchOf(
  document: Document,
  { owner, from, to: wanted }: { owner: Owner; from: number; to: number | null }
): { plan: Plan; from: number; to: number } {
  const plan = new Plan(document);
  if (owner.table !== "project" && owner.table !== "tracks")
    throw new UserFault(422, "Only tracks and the mix are measured over a range of the timeline.");
  if (owner.table === "tracks" && !document.get("tracks", owner.id))
    throw new UserFault(404, "The track is no longer there.");
  const to = wanted ?? plan.end;
  if (to === from && wanted === null) return { plan, from, to };
  if (to <= from) throw new UserFault(422, "The range to measure is empty.");
  if (to > 2 * plan.end + MOST_BEHIND_SECONDS * document.sampleRate)
    throw new UserFault(422, "The range to measure ends far behind the programme.");
  return { plan, from, to };
}

/** What a task is given that hears a track or the mix. */
export async function busWork(
  document: Document,
  owner: Owner,
  { plan, from, to }: ReturnType<typeof stretchOf>
) {
  const { sampleRate } = document;
  const files = await filesOf(plan.recordings(from, to), sampleRate, (id) => recordingName(document, id));
  return { what: { document: document.toJson(), busId: owner.id, from, to }, sampleRate, files };
}

export async function analyseBus(
  saved: Document,
  { owner, from, to, bins, steps, pictures }: Extract<ListenWish, { kind: "bus" }>,
  signal: AbortSignal,
  tell: Tell
): Promise<AnalysisJson> {
  const document = steps
    ? heardDocument(saved, { owners: [owner], steps, gainDb: 0, difference: false })
    : saved;
  const stretch = stretchOf(document, { owner, from, to });
  if (stretch.to === stretch.from) return { stages: [], output: null, before: [], after: [] };
  const work = await busWork(document, owner, stretch);
  return (await run(
    { kind: "analyse", ...work, bins, pictures, known: [], lessons: {} },
    signal,
    tell
  )) as AnalysisJson;
}
