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

/** Starts a thread if there is none: it takes a third of a second, in which what comes before a task can be done. */
export function warmUp(): void {
  if (warming || threads().threads.length > 0) return;
  const { port1, port2 } = new MessageChannel();
  const nothing: Task = { kind: "nothing", dataFolder: config.dataFolder, scratch: "" };
  const begun = threads();
  warming = begun
    .run({ task: nothing, port: port2 }, { transferList: [port2] })
    .catch((error: unknown) => {
      // Closed meanwhile: nothing waits for it.
      if (pool === begun) log.error({ error: String(error) }, "a worker thread did not start");
    })
    .then(() => {
      port1.close();
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
  const { port1, port2 } = new MessageChannel();
  port1.on("message", ({ share, soFar }: { share: number; soFar?: unknown }) => {
    if (!signal.aborted) tick(share, soFar);
  });
  try {
    return (await threads().run({ task, port: port2 }, { transferList: [port2], signal })) as Outcome;
  } finally {
    port1.close();
  }
}

/** Ends all threads. */
export async function closePool(): Promise<void> {
  const closing = pool;
  pool = undefined;
  await closing?.destroy();
}
