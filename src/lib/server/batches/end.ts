// When the last sound of a batch has ended, a job is ordered that puts what they came to into the project.
import { database } from "../db/connection";
import { queue } from "../jobs/queue";
import { keptBatches, readKept, type KeptBatch } from "./kept";

async function end(batch: KeptBatch): Promise<void> {
  const { models } = await database();
  const ids = batch.items.map((item) => item.jobId);
  if ((await models.Job.count({ where: { id: ids, state: ["queued", "running"] } })) > 0) return;
  if (await models.Job.findByPk(batch.endId)) return;
  // None has a result: there is nothing to put into the project.
  if ((await models.Job.count({ where: { id: ids, state: "done" } })) === 0) return;
  const { projectId, name, id, endId } = batch;
  const order = { kind: "batchEnd", batch: id };
  await queue.enqueueAll([{ id: endId, projectId, kind: "batchEnd", title: `Batch ${name}`, order }]);
}

let last: Promise<void> = Promise.resolve();

/**
 * Orders the end of a batch once all its sounds have ended; once only, one after the other: the last two of them may end together. Wake the
 * runner afterwards.
 */
export function endIfAll(batchId: string): Promise<void> {
  const now = () => end(readKept(batchId));
  const next = last.then(now, now);
  last = next;
  return next;
}

/** Batches whose last sound ended just before the process did. */
export async function takeUpBatches(): Promise<void> {
  for (const { id } of keptBatches()) await endIfAll(id);
}
