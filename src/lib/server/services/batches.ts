// Batches of a project: ordering them, and what became of them.
import { randomUUID } from "node:crypto";
import type { BatchItem, BatchView, newBatchSchema } from "$lib/api/batches";
import type { z } from "zod";
import { recordingsOf } from "$lib/core/effects/registry";
import { levelStep, needsProfile } from "$lib/core/session/batch";
import type { Document } from "$lib/core/session/document";
import { atRate } from "$lib/core/session/make";
import { recipeOf } from "$lib/core/session/clipState";
import { ownerFault, stepsOfOwner } from "$lib/core/session/owners";
import { MAX_STEPS, type RecipeStep } from "$lib/core/session/schema";
import { keepBatch, keptBatches, type KeptBatch } from "../batches/kept";
import { UserFault } from "../faults";
import { batchedSchema } from "../jobs/kinds/batch";
import { cancelJob, wake } from "../jobs/runner";
import { queue } from "../jobs/queue";
import { loadProject, needProject } from "./projects";

type Order = z.infer<typeof newBatchSchema>;

/** The chain, with a step at its end that brings to the level. */
function chainOf({ steps, level }: Order): RecipeStep[] {
  const whole = steps.map((step) => ({ ...step, span: null }));
  return level ? [...whole, levelStep(level)] : whole;
}

function itemsOf(document: Document, { items }: Order) {
  const seen = new Set<string>();
  return items.flatMap(({ kind, id }) => {
    if (seen.has(`${kind} ${id}`)) return [];
    seen.add(`${kind} ${id}`);
    const found = document.get(kind === "clip" ? "clips" : "recordings", id);
    if (!found) throw new UserFault(404, `A ${kind} of the batch is no longer there.`);
    const ground = kind === "clip" ? recipeOf(stepsOfOwner(document, { table: "clips", id })) : [];
    return { kind, id, name: found.name, jobId: randomUUID(), ground };
  });
}

/** Why the batch cannot be carried out on any of its sounds. */
function faultOf(document: Document, order: Order, steps: readonly RecipeStep[]): string | undefined {
  if (!steps.some((step) => step.on))
    return "The batch has no step that is on, and no level: there is nothing to do.";
  if (steps.length > MAX_STEPS) return `A chain has at most ${MAX_STEPS} steps.`;
  const table = order.items.some(({ kind }) => kind === "recording") ? "recordings" : "clips";
  const fault =
    steps.map((step) => ownerFault(table, step)).find((one) => one !== undefined) ?? needsProfile(steps);
  if (fault) return fault;
  const carried = new Set(order.recordings.map(({ id }) => id));
  const missing = steps
    .flatMap(recordingsOf)
    .some((id) => !carried.has(id) && !document.get("recordings", id));
  return missing ? "The chain needs a recording that was not given with it." : undefined;
}

/** Orders a batch: one job for each sound. @throws UserFault when it cannot be carried out */
export async function orderBatch(projectId: string, order: Order): Promise<BatchView> {
  const { document } = await loadProject(projectId);
  const steps = chainOf(order);
  const fault = faultOf(document, order, steps);
  if (fault) throw new UserFault(422, fault);
  const { name, recordings, mode } = order;
  const batch: KeptBatch = {
    id: randomUUID(),
    endId: randomUUID(),
    projectId,
    date: new Date().toISOString(),
    name,
    steps,
    recordings: recordings.map((recording) => atRate(recording, document.sampleRate)),
    mode,
    items: itemsOf(document, order)
  };
  keepBatch(batch);
  await queue.enqueueAll(
    batch.items.map((item, i) => ({
      id: item.jobId,
      projectId,
      kind: "batch",
      title: `Treat ${item.name}`,
      order: { kind: "batch", batch: batch.id, item: i }
    }))
  );
  wake();
  return viewOf(batch);
}

async function viewOf(batch: KeptBatch): Promise<BatchView> {
  const ids = [...batch.items.map((item) => item.jobId), batch.endId];
  const jobs = new Map((await queue.views(ids)).map((job) => [job.id, job]));
  const end = jobs.get(batch.endId);
  const items = batch.items.map(({ jobId, kind, id, name }): BatchItem => {
    const job = jobs.get(jobId);
    const result = job?.state === "done" ? batchedSchema.safeParse(job.result).data : undefined;
    return {
      jobId,
      kind,
      id,
      name,
      state: job?.state ?? "cancelled",
      progress: job?.progress ?? 0,
      error: job?.error ?? null,
      before: result?.before ?? null,
      after: result?.after ?? null,
      made: result?.recording.name ?? null
    };
  });
  const applied = end?.state === "done" ? "applied" : end?.state === "failed" ? "failed" : "waiting";
  return { id: batch.id, name: batch.name, date: batch.date, items, applied, error: end?.error ?? null };
}

/** Batches of a project, the newest first. */
export async function batchesOf(projectId: string): Promise<BatchView[]> {
  await needProject(projectId);
  return Promise.all(keptBatches(projectId).map(viewOf));
}

/** Cancels what of a batch has not ended; what is done stays and is put into the project. @throws UserFault 404 */
export async function cancelBatch(projectId: string, batchId: string): Promise<void> {
  const batch = keptBatches(projectId).find(({ id }) => id === batchId);
  if (!batch) throw new UserFault(404, "There is no such batch.");
  // The last first: else those that wait would begin meanwhile.
  for (const { jobId } of [...batch.items].reverse()) {
    const { endedAt } = await queue.find(jobId);
    if (endedAt !== null) continue;
    await cancelJob(jobId).catch((error: unknown) => {
      // It has ended in between.
      if (!(error instanceof UserFault && error.status === 409)) throw error;
    });
  }
}
