import { randomUUID } from "node:crypto";
import { mkdirSync, readdirSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import type { JobView } from "$lib/api/types";
import { config } from "../config";
import { database, write } from "../db/connection";
import type { JobKind, JobRow, JobState } from "../db/models";
import { publish } from "../events";
import { sentenceOf, UserFault } from "../faults";
import { log } from "../log";
import { exportsFolder, jobFolder } from "../media/paths";
import { handlers, type JobContext, type Payload } from "./handlers";
import { runTask } from "./pool";

const EXPORT_DAYS = 7;
const running = new Map<string, AbortController>();

function view(row: JobRow): JobView {
  return {
    id: row.id,
    projectId: row.projectId,
    kind: row.kind,
    title: row.title,
    state: row.state,
    progress: row.progress,
    error: row.error,
    result: row.result === null ? null : JSON.parse(row.result)
  };
}

async function change(
  row: JobRow,
  values: Partial<Pick<JobRow, "state" | "progress" | "result" | "error">>
): Promise<void> {
  await write((_, transaction) => row.update(values, { transaction }));
  if (row.projectId) publish(row.projectId, { type: "job", job: view(row) });
}

/** Stores a job and starts it. Returns at once. */
export async function startJob(projectId: string, payload: Payload, title: string): Promise<JobView> {
  const row = await write((models, transaction) =>
    models.Job.create(
      {
        id: randomUUID(),
        projectId,
        kind: payload.kind,
        title,
        state: "queued",
        progress: 0,
        payload: JSON.stringify(payload),
        result: null,
        error: null
      },
      { transaction }
    )
  );
  publish(projectId, { type: "job", job: view(row) });
  void run(row);
  return view(row);
}

async function run(row: JobRow): Promise<void> {
  const payload = JSON.parse(row.payload) as Payload;
  const handler = handlers[row.kind];
  const context: JobContext = {
    jobId: row.id,
    projectId: row.projectId ?? "",
    scratch: jobFolder(config.dataFolder, row.id)
  };
  const abort = new AbortController();
  running.set(row.id, abort);
  try {
    mkdirSync(context.scratch, { recursive: true });
    const task = await handler.prepare(payload, context);
    await change(row, { state: "running" });
    const outcome = await runTask(task, abort.signal, (share) => {
      row.progress = share;
      if (row.projectId) publish(row.projectId, { type: "job", job: view(row) });
    });
    if ("fault" in outcome) throw new UserFault(422, handler.fault(payload, outcome.fault));
    if ("sentence" in outcome) throw new UserFault(507, outcome.sentence);
    if ("error" in outcome) throw new Error(outcome.error);
    const result = await handler.complete(payload, outcome.result, context);
    await change(row, { state: "done", progress: 1, result: JSON.stringify(result) });
  } catch (error) {
    handler.discard?.(payload, context);
    const cancelled = abort.signal.aborted;
    const known = sentenceOf(error);
    if (!cancelled && !known)
      log.error({ job: row.id, error: String((error as Error).stack ?? error) }, "job failed");
    const sentence = known ?? `${row.title} failed: ${(error as Error).message.split("\n")[0]}`;
    await change(row, cancelled ? { state: "cancelled" } : { state: "failed", error: sentence });
  } finally {
    running.delete(row.id);
    rmSync(context.scratch, { recursive: true, force: true });
  }
}

/** Stops a job; what it had begun is removed. */
export async function cancelJob(id: string): Promise<void> {
  const abort = running.get(id);
  if (!abort) throw new UserFault(409, "The job has already ended.");
  abort.abort();
}

/** @throws UserFault 404 */
export async function findJob(id: string): Promise<JobView> {
  const { models } = await database();
  const row = await models.Job.findByPk(id);
  if (!row) throw new UserFault(404, "There is no such job.");
  return view(row);
}

/** Jobs of a project that are not over. */
export async function openJobs(projectId: string): Promise<JobView[]> {
  const { models } = await database();
  const states: JobState[] = ["queued", "running"];
  const rows = await models.Job.findAll({
    where: { projectId, state: states },
    order: [["createdAt", "ASC"]]
  });
  return rows.map(view);
}

const AGAIN: readonly JobKind[] = ["import", "render", "export"];

/** After a start: unfinished work runs again, unfinished measurements are cleared with a message, old exports and scratch go. */
export async function resumeJobs(): Promise<void> {
  rmSync(path.join(config.dataFolder, "scratch"), { recursive: true, force: true });
  removeOldExports();
  const { models } = await database();
  const states: JobState[] = ["queued", "running"];
  for (const row of await models.Job.findAll({ where: { state: states }, order: [["createdAt", "ASC"]] })) {
    if (AGAIN.includes(row.kind)) void run(row);
    else
      await change(row, {
        state: "failed",
        error: `${row.title} was stopped when Wring was closed. Start it again if you still need it.`
      });
  }
}

function removeOldExports(): void {
  const folder = exportsFolder(config.dataFolder);
  mkdirSync(folder, { recursive: true });
  for (const name of readdirSync(folder)) {
    const file = path.join(folder, name);
    if (Date.now() - statSync(file).mtimeMs > EXPORT_DAYS * 86400000) rmSync(file, { force: true });
  }
}
