import path from "node:path";
import { parseBytes, parseCount } from "./units";

/** Where the user's data lies, and how much of it there may be. Read from the environment at start; wrong values end it with a sentence. */
export const config = {
  dataFolder: path.resolve(process.env.WRING_DATA ?? "data"),
  /** Most bytes that the data folder may hold; Infinity when not set. */
  maxBytes: parseBytes("WRING_MAX_BYTES", process.env.WRING_MAX_BYTES, Infinity),
  workerFile: path.resolve(process.env.WRING_WORKER ?? "build/worker/worker.mjs"),
  /** Threads for heavy computation. */
  threads: parseCount("WRING_THREADS", process.env.WRING_THREADS, 2, 64)
};
