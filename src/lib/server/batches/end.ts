// When the last sound of a batch has ended, a job is ordered that puts what they came to into the project.
import { database } from "../db/connection";
import { queue } from "../jobs/queue";
import { keptBatches, readKept, type KeptBatch } from "./kept";

const ending = new Set<string>();

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

/** Orders the end of a batch once all its sounds have ended; once only. Wake the runner afterwards. */
export async function endIfAll(batchId: string): Promise<void> {
  if (ending.has(batchId)) return;
  ending.add(batchId);
  try {
    await end(readKept(batchId));
  } finally {
    ending.delete(batchId);
  }
}

/** Batches whose last sound ended just before the process did. */
export async function takeUpBatches(): Promise<void> {
  for (const { id } of keptBatches()) await endIfAll(id);
}
