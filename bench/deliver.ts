// Files delivered by a running server: two threads beside one. Works on a copy of the demo, in which sections of its programme are delivered.
import { cpSync, existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import type { DeliveryView } from "../src/lib/api/delivery";
import type { ProjectSummary } from "../src/lib/api/types";
import { standardSettings, withCoding } from "../src/lib/core/delivery/settings";
import { call, withServer } from "./server";
import { row } from "./table";

const FILES = 10;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-deliver-"));

/** Seconds that a server with so many threads takes for all sections. */
async function seconds(threads: number): Promise<number> {
  const data = mkdtempSync(path.join(folder, "data-"));
  cpSync(process.env.WRING_DATA ?? "", data, { recursive: true });
  return withServer(data, threads, async () => {
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
  });
}

if (existsSync("/usr/bin/ffmpeg")) {
  const spent = [0, 0, 0];
  // There and back, twice: a machine does not keep its pace.
  for (const threads of [1, 2, 2, 1, 1, 2, 2, 1]) spent[threads] += await seconds(threads);
  const [, one = NaN, two = NaN] = spent;
  row(`${FILES} files delivered as FLAC: two threads beside one`, one / two, "×", 1.5);
} else console.log("Delivering was left out: ffmpeg is not installed.");
rmSync(folder, { recursive: true, force: true });
