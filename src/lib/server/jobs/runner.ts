// Takes jobs from the queue and runs them, as many at once as there are threads.
import { mkdirSync, rmSync } from "node:fs";
import { setImmediate } from "node:timers/promises";
import { FileFault } from "$lib/core/formats/fault";
import { config } from "../config";
import { isFull, sentenceOf, UserFault } from "../faults";
import { log } from "../log";
import { jobFolder } from "../media/paths";
import { bytesBelow, reserve } from "../media/space";
import { EndsTogether, endWithResult } from "./ends";
import type { JobContext, JobKind } from "./kinds/kind";
import { jobKindOf } from "./kinds";
import { runTask, warmUp } from "./pool";
import { queue, type LeasedJob } from "./queue";
import type { TaskResult } from "./tasks/task";

/** Jobs that were taken from the queue. */
const running = new Map<string, AbortController>();

/** A job on its way to a free place. */
interface Taken {
  readonly job: LeasedJob;
  readonly abort: AbortController;
  /** The ends of those that were taken with it. */
  readonly ends: EndsTogether;
}

/** Those of them that wait for a free place. */
let ahead: Taken[] = [];
/** Places that are taken, of as many as there are threads. */
let places = 0;
/** So many light jobs are taken at once. */
const LIGHT_AT_ONCE = 16;
// Until what an earlier process left has been sorted out, nothing runs.
let stopped = true;
/** Ends that could not be written: a full disk. They are tried again until they can. */
const unwritten = new Map<string, () => Promise<void>>();
const AGAIN_MS = 3000;
let again: ReturnType<typeof setTimeout> | undefined;

/** Starts what waits, if there is a free place. Call it whenever that may have changed. */
export function wake(): void {
  pump().catch((error: unknown) => {
    log.error({ error: String(error) }, "jobs cannot be taken from the queue");
    later();
  });
}

function later(): void {
  again ??= setTimeout(() => {
    again = undefined;
    retry().catch((error: unknown) => log.error({ error: String(error) }, "job's ends cannot be written"));
  }, AGAIN_MS);
  again.unref();
}

async function retry(): Promise<void> {
  for (const [id, end] of [...unwritten])
    try {
      await end();
      unwritten.delete(id);
    } catch (error) {
      if (!sentenceOf(error)) log.error({ job: id, error: String(error) }, "job's end cannot be written");
    }
  if (unwritten.size > 0) later();
  wake();
}

let pumping: Promise<void> = Promise.resolve();

function pump(): Promise<void> {
  pumping = pumping.then(fill, fill);
  return pumping;
}

async function fill(): Promise<void> {
  while (!stopped && places < config.threads) {
    if (ahead.length === 0) ahead = await lease();
    if (stopped) return forgetAhead();
    const next = ahead.shift();
    if (!next) return;
    places++;
    start(next);
  }
}

async function lease(): Promise<Taken[]> {
  const jobs = await queue.lease(isLight, LIGHT_AT_ONCE);
  const ends = new EndsTogether(jobs.length);
  return jobs.map((job) => {
    const abort = new AbortController();
    running.set(job.id, abort);
    return { job, abort, ends };
  });
}

/** The process is going down: those that have not begun are taken up at the next start. */
function forgetAhead(): void {
  for (const { job, ends } of ahead) {
    running.delete(job.id);
    ends.leave();
  }
  ahead = [];
}

function isLight({ kind, order }: LeasedJob): boolean {
  try {
    const known = jobKindOf(kind);
    return known.light?.(known.order.parse(order)) ?? false;
  } catch {
    // What is wrong with it is told when it is run.
    return false;
  }
}

function start(taken: Taken): void {
  const { id } = taken.job;
  let placed = true;
  const leave = () => {
    if (!placed) return;
    placed = false;
    places--;
    wake();
  };
  run(taken, leave)
    .catch((error: unknown) => log.error({ job: id, error: String(error) }, "job's end failed"))
    .finally(() => {
      running.delete(id);
      leave();
    });
}

function contextOf({ id, projectId }: LeasedJob): JobContext {
  return { jobId: id, projectId, scratch: jobFolder(config.dataFolder, id) };
}

/** @param leave gives its place to others */
async function run({ job, abort, ends }: Taken, leave: () => void): Promise<void> {
  const context = contextOf(job);
  let order: unknown = job.order;
  let kind: JobKind | undefined;
  let done = false;
  let ending = false;
  try {
    kind = jobKindOf(job.kind);
    order = kind.order.parse(job.order);
    mkdirSync(context.scratch, { recursive: true });
    const result = await work(kind, order, context, abort.signal);
    const end = { job, kind, order, result, context };
    if (kind.light?.(order)) {
      ending = true;
      leave();
      await ends.add(end, abort.signal);
    } else await endWithResult(end);
    done = true;
  } catch (error) {
    // The process is going down: the job is taken up again at the next start.
    if (stopped) return;
    await endWithFault(job, abort.signal.aborted, error);
  } finally {
    if (!ending) ends.leave();
    if (!stopped) await clear(kind, order, context, done);
  }
}

async function clear(
  kind: JobKind | undefined,
  order: unknown,
  context: JobContext,
  done: boolean
): Promise<void> {
  try {
    rmSync(context.scratch, { recursive: true, force: true });
    await kind?.clear?.(order, context, done);
  } catch (error) {
    log.error({ job: context.jobId, error: String(error) }, "what a job left could not be removed");
  }
}

/** Does a job's work on a worker thread. @throws UserFault when it cannot be done */
async function work(
  kind: JobKind,
  order: unknown,
  context: JobContext,
  signal: AbortSignal
): Promise<TaskResult> {
  signal.throwIfAborted();
  warmUp();
  const { bytes, what } = await kind.room(order, context).catch((error: unknown) => {
    throw error instanceof FileFault ? new UserFault(422, kind.fault(order, error.message)) : error;
  });
  const release = reserve(bytes, what, () => bytesBelow(context.scratch));
  try {
    const task = await kind.prepare(order, context);
    const outcome = await runTask(task, signal, (share) => queue.beat(context.jobId, share));
    // From here on its end is its result: what it made is put in place.
    signal.throwIfAborted();
    if ("fault" in outcome) throw new UserFault(422, kind.fault(order, outcome.fault));
    if ("sentence" in outcome) throw new UserFault(507, outcome.sentence);
    if ("error" in outcome) throw new Error(outcome.error);
    return outcome.result;
  } finally {
    release();
  }
}

async function endWithFault(job: LeasedJob, cancelled: boolean, error: unknown): Promise<void> {
  const known = sentenceOf(error);
  if (!cancelled && !known)
    log.error({ job: job.id, error: String((error as Error).stack ?? error) }, "job failed");
  const why = (error as Error).message.split("\n")[0] ?? "";
  const sentence = isFull(error)
    ? `${job.title}: the disk is full. Nothing was changed; make room and try again.`
    : (known ?? `${job.title} failed: ${why}`);
  const write = () => (cancelled ? queue.cancel(job.id) : queue.fail(job.id, sentence));
  try {
    await write();
  } catch (fault) {
    log.error({ job: job.id, error: String(fault) }, "job's end could not be written; it is tried again");
    unwritten.set(job.id, write);
    later();
  }
}

/** Stops a job; what it had begun is removed. @throws UserFault 409 when it has ended */
export async function cancelJob(id: string): Promise<void> {
  for (;;) {
    const abort = running.get(id);
    if (abort) {
      abort.abort();
      return;
    }
    const waiting = await queue.cancelWaiting(id);
    if (waiting) {
      await clear(jobKindOf(waiting.kind), waiting.order, contextOf(waiting), false);
      wake();
      return;
    }
    if ((await queue.find(id)).endedAt !== null) throw new UserFault(409, "The job has already ended.");
    // It has just been taken, and is about to be among the running ones.
    await setImmediate();
  }
}

/**
 * Jobs that a process left in the middle: those that can go on wait again, the others end with a sentence. Call it while nothing
 * runs: what runs would be taken for left.
 */
export async function resumeJobs(): Promise<void> {
  for (const row of await queue.unfinished()) {
    if (row.state === "queued") continue;
    let resumes = false;
    try {
      resumes = jobKindOf(row.kind).resumes;
    } catch (error) {
      log.error({ job: row.id, error: String(error) }, "job of an unknown kind");
    }
    if (resumes) await queue.requeue(row.id);
    else
      await queue.fail(
        row.id,
        `${row.title} was stopped when Wring was closed. Start it again if you still need it.`
      );
  }
}

/** Ends the runner: running jobs are left in the middle, for the next start. */
export function stopRunner(): void {
  stopped = true;
  clearTimeout(again);
  forgetAhead();
  for (const abort of running.values()) abort.abort();
}

/** Lets jobs run, from now on. */
export function startRunner(): void {
  stopped = false;
  wake();
}

/** Waits until nothing runs any more. */
export async function drained(): Promise<void> {
  while (running.size > 0) await new Promise((resolve) => setTimeout(resolve, 5));
}
