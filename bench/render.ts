// Renders and batches by a running server: how many times faster than the sound lasts, two threads beside one, a batch beside its renders.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import { Worker } from "node:worker_threads";
import type { BatchView } from "../src/lib/api/batches";
import type { JobsView } from "../src/lib/api/jobs";
import { newChain, newClip, newStep } from "../src/lib/core/session/make";
import { wavBytes } from "../tests/core/wavBytes";
import { call, importFile, withServer } from "./server";
import { speechLike } from "./speechLike";
import { row } from "./table";

const RATE = 48000;
const LONG_MINUTES = 10;
const CLIPS = 40;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-render-"));

const fileOf = (channels: Float32Array[]) =>
  new Uint8Array(wavBytes({ channels, sampleRate: RATE, kind: "float32" }));
const steps = (n: string) => [
  newStep(`e${n}`, "parametric-eq", { on1: true, type1: "highPass", freq1: 80, on3: true, gain3: 3 }),
  newStep(`c${n}`, "compressor", { thresholdDb: -24, ratio: 3 }),
  newStep(`l${n}`, "limiter", { gainDb: 3, ceilingDb: -1 })
];

async function settled(url: string): Promise<void> {
  for (;;) {
    const { open, ended } = await call<JobsView>(`${url}/jobs?since=2020-01-01T00:00:00Z`);
    const failed = ended.find((job) => job.state === "failed");
    if (failed) throw new Error(failed.error ?? "");
    if (open.length === 0) return;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

let edits = 0;
async function edit(url: string, command: unknown): Promise<void> {
  const { revision } = await call<{ revision: number }>(url);
  const wish = { editId: `bench-${++edits}`, base: revision, wish: { command } };
  const { refused } = await call<{ refused: { error: string }[] }>(`${url}/edits`, {
    page: "bench",
    known: revision,
    edits: [wish]
  });
  if (refused[0]) throw new Error(refused[0].error);
}

const EACH = { into: "each", upTo: null, handles: 0, tail: 0, shared: false, name: null };

async function timed(url: string, order: () => Promise<unknown>): Promise<number> {
  const begin = performance.now();
  await order();
  await settled(url);
  return (performance.now() - begin) / 1000;
}

/** A project with a long stereo recording, and a recording of a minute. */
async function project(): Promise<{ url: string; long: string; minutes: string }> {
  const { id } = await call<{ id: string }>("/api/projects", { name: "Renders", sampleRate: RATE });
  const sound = [1, 2].map((seed) => speechLike(LONG_MINUTES * 60, seed));
  const long = await importFile(id, "Long.wav", fileOf(sound));
  const minutes = await importFile(
    id,
    "Minutes.wav",
    fileOf([1, 2].map((seed) => speechLike(62, 10 + seed)))
  );
  return { url: `/api/projects/${id}`, long, minutes };
}

/** Clips that show a recording a little later each, so that no two sound alike. */
async function clips(
  url: string,
  recordingId: string,
  name: string,
  count: number,
  seconds: number,
  frames: number
) {
  const ids = Array.from({ length: count }, (_, i) => `${name}-${i}`);
  for (const [i, id] of ids.entries())
    await edit(url, {
      type: "clip.add",
      clip: newClip(id, "track-1", { id: recordingId, name: id, frames }, i * seconds * RATE, {
        length: seconds * RATE,
        offset: i * 64,
        chain: `ch-${id}`
      }),
      chain: newChain(`ch-${id}`, steps(id))
    });
  return ids;
}

const LONG = LONG_MINUTES * 60 - 1;

async function longRenders(threads: number): Promise<number> {
  return withServer(path.join(folder, `long-${threads}`), threads, async () => {
    const { url, long } = await project();
    const ids = await clips(url, long, "long", 4, LONG, LONG_MINUTES * 60 * RATE);
    // The first ones warm the threads up.
    await timed(url, () => call(`${url}/renders`, { ...EACH, clipIds: ids.slice(4 - threads) }));
    return timed(url, () => call(`${url}/renders`, { ...EACH, clipIds: ids.slice(0, threads) }));
  });
}

/** Seconds that threads take that only compute, all at once: neither memory nor disk keeps them from running beside each other. */
async function computing(threads: number): Promise<number> {
  const code = `const { parentPort } = require("node:worker_threads");
    let x = 0;
    for (let i = 1; i < 1.5e9; i++) x += 1 / i;
    parentPort.postMessage(x);`;
  const begin = performance.now();
  await Promise.all(
    Array.from(
      { length: threads },
      () => new Promise((resolve) => new Worker(code, { eval: true }).once("message", resolve))
    )
  );
  return (performance.now() - begin) / 1000;
}

const machine = (2 * (await computing(1))) / (await computing(2));
const one = await longRenders(1);
row(
  "render of a 10-minute stereo clip, EQ, compressor, limiter, one thread: times real time",
  LONG / one,
  "×",
  100
);
const two = await longRenders(2);
row("two such clips at once on two threads beside one after the other", (2 * one) / two, "×", 1.6);
row("  of what this machine gives two threads that only compute", (2 * one) / two / machine, "×");

await withServer(path.join(folder, "batch"), 2, async () => {
  const { url, minutes } = await project();
  const ids = await clips(url, minutes, "minute", CLIPS, 60, 62 * RATE);
  await timed(url, () => call(`${url}/renders`, { ...EACH, clipIds: ids.slice(0, 2) }));
  const renders = await timed(url, () => call(`${url}/renders`, { ...EACH, clipIds: ids }));
  const recipe = steps("batch").map(({ id: _id, ...step }) => step);
  const order = {
    name: "Bench",
    steps: recipe.map((step) => ({
      ...step,
      params: { ...step.params, ...(step.effect === "limiter" ? { gainDb: 4 } : {}) }
    })),
    recordings: [],
    level: null,
    mode: "replace",
    items: ids.map((id) => ({ kind: "clip", id }))
  };
  const batch = await timed(url, async () => {
    const { id } = await call<BatchView>(`${url}/batches`, order);
    for (;;) {
      const found = (await call<BatchView[]>(`${url}/batches`)).find((batch) => batch.id === id);
      if (found?.applied === "applied") return;
      // To ask takes the machine's time as well.
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
  });
  row(
    `renders of ${CLIPS} one-minute clips beside a batch of them, measured before and after`,
    renders / batch,
    "×",
    1 / 1.2
  );
});
rmSync(folder, { recursive: true, force: true });
