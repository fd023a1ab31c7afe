import path from "node:path";
import { bundleWorker } from "./bundle.js";

export function serverWorker() {
  let done = false;
  return {
    name: "wring-server-worker",
    apply: (_config, env) => env.mode !== "test",
    async buildStart() {
      if (done) return;
      done = true;
      await bundleWorker(path.resolve("build/worker"));
    }
  };
}
