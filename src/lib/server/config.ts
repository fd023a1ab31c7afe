import path from "node:path";

/** Where the user's data lies, and how much of it there may be. Read from the environment at start. */
export const config = {
  dataFolder: path.resolve(process.env.WRING_DATA ?? "data"),
  /** Most bytes that the data folder may hold; Infinity when not set. */
  maxBytes: process.env.WRING_MAX_BYTES ? Number(process.env.WRING_MAX_BYTES) : Infinity,
  workerFile: path.resolve(process.env.WRING_WORKER ?? "build/worker/worker.mjs"),
  /** Threads for heavy computation. */
  threads: Math.max(1, Number(process.env.WRING_THREADS ?? 2))
};
