import { MessageChannel } from "node:worker_threads";
import { Piscina } from "piscina";
import { config } from "../config";
import type { Task } from "./tasks/task";
import type { Outcome } from "./worker";

let pool: Piscina | undefined;

/** Runs a task on a worker thread. Aborting ends the thread at once; what it was writing lies in the job's scratch folder. */
export async function runTask(
  task: Task,
  signal: AbortSignal,
  tick: (share: number, soFar?: unknown) => void
): Promise<Outcome> {
  pool ??= new Piscina({
    filename: config.workerFile,
    minThreads: 0,
    maxThreads: config.threads,
    idleTimeout: 30000
  });
  const { port1, port2 } = new MessageChannel();
  port1.on("message", ({ share, soFar }: { share: number; soFar?: unknown }) => {
    if (!signal.aborted) tick(share, soFar);
  });
  try {
    return (await pool.run({ task, port: port2 }, { transferList: [port2], signal })) as Outcome;
  } finally {
    port1.close();
  }
}

/** Ends all threads. */
export async function closePool(): Promise<void> {
  await pool?.destroy();
  pool = undefined;
}
