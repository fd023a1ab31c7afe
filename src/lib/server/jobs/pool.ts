import { MessageChannel } from "node:worker_threads";
import { Piscina } from "piscina";
import { config } from "../config";
import { log } from "../log";
import type { Task } from "./tasks/task";
import type { Outcome } from "./worker";

let pool: Piscina | undefined;

function threads(): Piscina {
  return (pool ??= new Piscina({
    filename: config.workerFile,
    minThreads: 0,
    maxThreads: config.threads,
    idleTimeout: 30000
  }));
}

/** While the first thread starts. */
let warming: Promise<void> | undefined;

interface Report {
  readonly share: number;
  readonly soFar?: unknown;
}

async function run(task: Task, tell?: (report: Report) => void, signal?: AbortSignal): Promise<Outcome> {
  const { port1, port2 } = new MessageChannel();
  if (tell) port1.on("message", tell);
  try {
    const ordered = { task, port: port2 };
    return (await threads().run(ordered, { transferList: [port2], signal: signal ?? null })) as Outcome;
  } finally {
    port1.close();
  }
}

/** Starts a thread if there is none: it takes a third of a second, in which what comes before a task can be done. */
export function warmUp(): void {
  if (warming || threads().threads.length > 0) return;
  const begun = threads();
  warming = run({ kind: "nothing", dataFolder: config.dataFolder, scratch: "" })
    .catch((error: unknown) => {
      // Closed meanwhile: nothing waits for it.
      if (pool === begun) log.error({ error: String(error) }, "a worker thread did not start");
    })
    .then(() => {
      warming = undefined;
    });
}

/** Runs a task on a worker thread. Aborting ends the thread at once; what it was writing lies in the job's scratch folder. */
export async function runTask(
  task: Task,
  signal: AbortSignal,
  tick: (share: number, soFar?: unknown) => void
): Promise<Outcome> {
  // A second thread would be started beside it, for nothing.
  await warming;
  const tell = ({ share, soFar }: Report) => {
    if (!signal.aborted) tick(share, soFar);
  };
  return run(task, tell, signal);
}

/** Ends all threads. */
export async function closePool(): Promise<void> {
  const closing = pool;
  pool = undefined;
  await closing?.destroy();
}
