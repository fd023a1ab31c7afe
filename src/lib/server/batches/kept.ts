// What all sounds of a batch share, and which job belongs to which: a file beside the exports, once for all.
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { newBatchSchema } from "$lib/api/batches";
import { recipeStepSchema } from "$lib/core/session/schema";
import { config } from "../config";
import { UserFault } from "../faults";
import { log } from "../log";
import { partName, syncFile } from "../media/store";

const schema = z.object({
  id: z.string(),
  projectId: z.string(),
  date: z.string(),
  name: z.string(),
  /** With the step that brings to a level, where one was wanted. */
  steps: z.array(recipeStepSchema),
  recordings: newBatchSchema.shape.recordings,
  mode: newBatchSchema.shape.mode,
  items: z.array(
    z.object({
      /** The chain that a clip had when the batch was ordered. */
      ground: z.array(recipeStepSchema),
      jobId: z.string(),
      kind: z.enum(["clip", "recording"]),
      id: z.string(),
      name: z.string()
    })
  ),
  /** The job that puts all results into the project. */
  endId: z.string()
});
export type KeptBatch = z.infer<typeof schema>;

const ENDING = ".batch.json";

function batchesFolder(): string {
  return path.join(config.dataFolder, "batches");
}

const fileOf = (id: string) => path.join(batchesFolder(), `${path.basename(id)}${ENDING}`);

export function keepBatch(batch: KeptBatch): void {
  const file = fileOf(batch.id);
  mkdirSync(path.dirname(file), { recursive: true });
  const part = partName(file);
  writeFileSync(part, JSON.stringify(batch));
  syncFile(part);
  renameSync(part, file);
}

/** @throws UserFault when it is not kept any more */
export function readKept(id: string): KeptBatch {
  const file = fileOf(id);
  if (!existsSync(file)) throw new UserFault(410, "The batch is no longer kept. Order it again.");
  return schema.parse(JSON.parse(readFileSync(file, "utf8")));
}

/** One that cannot be read is left out and logged: it hides no other. */
function readable(id: string): KeptBatch[] {
  try {
    return [readKept(id)];
  } catch (error) {
    log.error({ batch: id, error: String(error) }, "batch cannot be read");
    return [];
  }
}

/** All batches that are kept, those of one project when it is given; the newest first. */
export function keptBatches(projectId?: string): KeptBatch[] {
  const folder = batchesFolder();
  const names = existsSync(folder) ? readdirSync(folder).filter((name) => name.endsWith(ENDING)) : [];
  return names
    .flatMap((name) => readable(name.slice(0, -ENDING.length)))
    .filter((batch) => projectId === undefined || batch.projectId === projectId)
    .sort((a, b) => (a.date < b.date ? 1 : -1));
}

const DAY_MS = 86400000;

/** Forgets batches that were ordered so many days ago. */
export function clearBatches(days: number, now = Date.now()): void {
  for (const { id, date } of keptBatches())
    if (now - Date.parse(date) > days * DAY_MS) rmSync(fileOf(id), { force: true });
}
