// Files delivered by a running server: two threads beside one. Works on a copy of the demo, in which sections of its programme are delivered.
import { cpSync, existsSync, mkdtempSync, rmSync } from "node:fs";
import { spawn } from "node:child_process";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import type { DeliveryView } from "../src/lib/api/delivery";
import type { ProjectSummary } from "../src/lib/api/types";
import { standardSettings, withCoding } from "../src/lib/core/delivery/settings";
import { row } from "./table";

const PORT = 4698;
const FILES = 10;
const base = `http://127.0.0.1:${PORT}`;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-deliver-"));

async function call<T>(url: string, body?: unknown): Promise<T> {
  const answer = await fetch(base + url, {
    method: body === undefined ? "GET" : "POST",
    headers: { "content-type": "application/json" },
    body: body === undefined ? null : JSON.stringify(body)
  });
  return (await answer.json()) as T;
}

/** Seconds that a server with so many threads takes for all sections. */
async function seconds(threads: number): Promise<number> {
  const data = path.join(folder, String(threads));
  cpSync(process.env.WRING_DATA ?? "", data, { recursive: true });
  const server = spawn(process.execPath, ["server/index.mjs"], {
    env: {
      ...process.env,
      NODE_ENV: "production",
      PORT: String(PORT),
      WRING_DATA: data,
      WRING_THREADS: String(threads),
      WRING_LOG: "silent"
    },
    stdio: ["ignore", "ignore", "inherit", "ipc"]
  });
  await new Promise((resolve) => server.once("message", resolve));
  try {
    const [project] = await call<ProjectSummary[]>("/api/projects");
    if (!project) throw new Error("There is no demo.");
    const second = project.sampleRate;
    const order = (from: number) =>
      call<DeliveryView[]>(`/api/projects/${project.id}/deliveries`, {
        wanted: { what: "range", from: from * second, to: (from + 60) * second },
        settings: withCoding(standardSettings(), "flac")
      });
    const done = async (wanted: number) => {
      for (;;) {
        const list = await call<DeliveryView[]>(`/api/projects/${project.id}/deliveries`);
        const failed = list.find(({ job }) => job.error !== null);
        if (failed) throw new Error(failed.job.error ?? "");
        if (list.filter(({ delivered }) => delivered !== null).length === wanted) return;
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
    };
    // What has to be learnt and loaded once is not what is looked at.
    for (let i = 0; i < threads; i++) await order(i);
    await done(threads);
    const begin = performance.now();
    for (let i = 0; i < FILES; i++) await order(5 * i);
    await done(threads + FILES);
    return (performance.now() - begin) / 1000;
  } finally {
    server.kill();
    // It makes a backup before it ends.
    await new Promise((resolve) => server.once("exit", resolve));
  }
}

if (existsSync("/usr/bin/ffmpeg")) {
  const one = await seconds(1);
  row(`${FILES} files delivered as FLAC: two threads beside one`, one / (await seconds(2)), "×", 1.5);
} else console.log("Delivering was left out: ffmpeg is not installed.");
rmSync(folder, { recursive: true, force: true });
