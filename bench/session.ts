// What an edit costs in the core, on the server and on the wire, in projects of 200, 2,000 and 20,000 clips.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { performance } from "node:perf_hooks";
import { applyCommand, type Command } from "../src/lib/core/session/commands";
import { Document } from "../src/lib/core/session/document";
import { NO_HISTORY } from "../src/lib/core/session/history";
import { Replica, type Entry } from "../src/lib/core/session/replica";
import type { ProjectState } from "../src/lib/api/types";
import { config } from "../src/lib/server/config";
import { closeDatabase, write } from "../src/lib/server/db/connection";
import { edit } from "../src/lib/server/services/edits";
import { projectState, storeProject } from "../src/lib/server/services/projects";
import { bigClip, bigProject } from "../tests/support/bigProject";
import { median, row } from "./table";

const SIZES = [200, 2000, 20000];
const PORT = 4697;
const data = mkdtempSync(path.join(tmpdir(), "wring-bench-session-"));
config.dataFolder = data;

function timed(runs: number, work: (i: number) => void): number {
  const times: number[] = [];
  for (let i = 0; i < runs; i++) {
    const begin = performance.now();
    work(i);
    times.push(performance.now() - begin);
  }
  return median(times);
}

const change = (n: number): Command => ({
  type: "step.set",
  owner: { table: "clips", id: bigClip(n) },
  stepId: `step-${n}-a`,
  params: { gainDb: (n % 20) + 0.5 }
});

/** The server's word for the first edit of a page's outbox, through JSON. */
function confirmation(replica: Replica, i: number): Entry {
  const [edit] = replica.outbox;
  if (!edit || !("command" in edit.wish)) throw new Error("The outbox is empty.");
  const { changes } = applyCommand(replica.confirmed, edit.wish.command);
  const who = { kind: "do" as const, target: null, label: "", page: "page", job: null };
  const entry: Entry = { ...who, editId: edit.editId, revision: i + 1, changes };
  return JSON.parse(JSON.stringify(entry)) as Entry;
}

function core(): void {
  const one: number[] = [];
  const many: number[] = [];
  const docs = SIZES.map(bigProject);
  for (const doc of docs) {
    const clipIds = Array.from({ length: 200 }, (_, n) => bigClip(n));
    const all: Command = { type: "clip.set", clipIds, gainDb: -3 };
    timed(300, (i) => applyCommand(doc, change(i % 200)));
    one.push(timed(400, (i) => applyCommand(doc, change(i % 200))));
    timed(20, () => applyCommand(doc, all));
    many.push(timed(40, () => applyCommand(doc, all)));
  }
  SIZES.forEach((size, i) => {
    row(`a command in the core, ${size} clips`, one[i] ?? NaN, "ms", undefined, 1);
    row(`200 clips set in one command, of ${size}`, many[i] ?? NaN, "ms", undefined, 20);
  });
  row("a command, 20,000 clips beside 200", (one[2] ?? NaN) / (one[0] ?? NaN), "times", undefined, 1.5);
  row("200 clips set, of 20,000 beside 200", (many[2] ?? NaN) / (many[0] ?? NaN), "times", undefined, 1.5);
  const page = docs[1] ?? bigProject(2000);
  const replica = new Replica({ revision: 0, document: page, history: NO_HISTORY }, "page");
  const clipIds = [...page.values("clips")].map((clip) => clip.id);
  const onPage = timed(7, (i) => {
    replica.make(`edit-${i}`, { type: "clip.set", clipIds, gainDb: -i - 1 });
    replica.take([confirmation(replica, i)]);
  });
  row("gain of all 2,000 clips on a page: made, and confirmed", onPage, "ms");
  const removed = applyCommand(docs[2] ?? bigProject(1), { type: "clip.remove", clipIds: [bigClip(7)] });
  row("stored for removing one clip of 20,000", JSON.stringify(removed.changes).length, "bytes");
}

/** Wall time of a transaction of the same database that changes nothing. */
async function emptyTransaction(): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < 60; i++) {
    const begin = performance.now();
    await write((models, transaction) =>
      models.Project.update({ fault: null }, { where: { id: "none" }, transaction, silent: true })
    );
    times.push(performance.now() - begin);
  }
  return median(times);
}

async function server(): Promise<void> {
  for (const size of SIZES) {
    const id = await storeProject(bigProject(size));
    let { revision } = await projectState(id);
    const send = async (command: Command) => {
      const edits = [{ editId: crypto.randomUUID(), base: revision, wish: { command } }];
      const answer = await edit(id, { page: "bench", known: revision, edits });
      if (answer.refused[0]) throw new Error(answer.refused[0].error);
      ({ revision } = answer);
      return { request: JSON.stringify(edits).length, answer: JSON.stringify(answer).length };
    };
    for (let i = 0; i < 30; i++) await send(change(i));
    const times: number[] = [];
    let bytes = 0;
    const cpu = process.cpuUsage();
    const COUNT = 100;
    for (let i = 0; i < COUNT; i++) {
      const begin = performance.now();
      const sizes = await send(change((i % 150) + 30));
      times.push(performance.now() - begin);
      bytes = Math.max(bytes, sizes.request + sizes.answer);
    }
    const used = process.cpuUsage(cpu);
    const empty = await emptyTransaction();
    row(
      `an edit confirmed, ${size} clips: processor time`,
      (used.user + used.system) / 1000 / COUNT,
      "ms",
      undefined,
      8
    );
    row(
      `an edit confirmed, ${size} clips: beside an empty transaction`,
      median(times) / empty,
      "times",
      undefined,
      2
    );
    row(`request and answer of an edit, ${size} clips`, bytes, "bytes", undefined, 4096);
    if (size === 2000) {
      const clipIds = Array.from({ length: size }, (_, n) => bigClip(n));
      const whole: number[] = [];
      for (let i = 0; i < 5; i++) {
        const begin = performance.now();
        await send({ type: "clip.set", clipIds, gainDb: -i - 1 });
        whole.push(performance.now() - begin);
      }
      row("gain of all 2,000 clips in one edit", median(whole), "ms", undefined, 200);
      const some = clipIds.slice(0, 200);
      const { document } = await projectState(id);
      let page = Document.fromJson(document);
      /** Made on a page, sent, confirmed. */
      const confirmed = async (what: string, command: (i: number, doc: Document) => Command) => {
        const all: number[] = [];
        for (let i = 0; i < 5; i++) {
          const begin = performance.now();
          const wanted = command(i, page);
          page = applyCommand(page, wanted).document;
          await send(wanted);
          all.push(performance.now() - begin);
        }
        row(`${what} of 200 clips of 2,000: made and confirmed`, median(all), "ms", undefined, 100);
      };
      const clipsOf = (doc: Document) => some.flatMap((clipId) => doc.get("clips", clipId) ?? []);
      await confirmed("move", (i, doc) => ({
        type: "clip.place",
        clips: clipsOf(doc).map((clip) => ({
          clipId: clip.id,
          trackId: clip.track,
          start: clip.start + 480
        })),
        rule: (["pushAlong", "stayClear", "cover", "crossfade", "pushAlong"] as const)[i] ?? "cover",
        seed: `move-${i}`
      }));
      await confirmed("fade", (i) => ({
        type: "clip.fade",
        clipIds: some,
        edge: "in",
        fade: { length: 480 + i, shape: { curve: "smooth" } }
      }));
      await confirmed("split", (i, doc) => ({
        type: "clip.cut",
        cuts: clipsOf(doc).map((clip) => ({ clipId: clip.id, at: [clip.start + (clip.length >> 1)] })),
        blend: 0,
        seed: `split-${i}`
      }));
    }
  }
}

/** Pages that edit at once over HTTP for a while: edits confirmed, by page. */
async function twoPages(base: string, id: string): Promise<number[]> {
  const until = performance.now() + 4000;
  const page = async (name: string, offset: number): Promise<number> => {
    let revision = 0;
    let confirmed = 0;
    for (let i = 0; performance.now() < until; i++) {
      const edits = [
        { editId: crypto.randomUUID(), base: revision, wish: { command: change((i % 900) + offset) } }
      ];
      const answer = await fetch(`${base}/api/projects/${id}/edits`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ page: name, known: revision, edits })
      });
      const value = (await answer.json()) as { revision: number; refused: unknown[] };
      ({ revision } = value);
      if (value.refused.length === 0) confirmed++;
    }
    return confirmed;
  };
  return Promise.all([page("one", 0), page("two", 1000)]);
}

async function overHttp(ids: readonly string[]): Promise<void> {
  const child = spawn(process.execPath, ["server/index.mjs"], {
    env: {
      ...process.env,
      NODE_ENV: "production",
      PORT: String(PORT),
      WRING_DATA: data,
      WRING_LOG: "silent"
    },
    stdio: ["ignore", "ignore", "inherit", "ipc"]
  });
  await new Promise((resolve) => child.once("message", resolve));
  try {
    const base = `http://127.0.0.1:${PORT}`;
    const open = async (project: string): Promise<number> => {
      const begin = performance.now();
      const state = (await (await fetch(`${base}/api/projects/${project}`)).json()) as ProjectState;
      Document.fromJson(state.document);
      return performance.now() - begin;
    };
    const [id = "", ...others] = ids;
    const first = await open(id);
    const [one = 0, two = 0] = await twoPages(base, id);
    row("two pages editing 2,000 clips at once: edits a second", (one + two) / 4, "", 60);
    row("the slower page beside the faster", Math.min(one, two) / Math.max(one, two, 1), "times", 0.5);
    const status = readFileSync(`/proc/${child.pid}/status`, "utf8");
    const resident = Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? NaN) / 1024;
    row("memory of the server with 2,000 clips open", resident, "MB", undefined, 200);
    // Each for the first time: read from the database, checked, sent, parsed.
    const times: number[] = [];
    for (const project of others) times.push(await open(project));
    row("document of 2,000 clips opened for the first time", median(times), "ms", undefined, 300);
    row("the same, the first after the server's start", first, "ms");
  } finally {
    child.kill("SIGTERM");
    await new Promise((resolve) => child.once("exit", resolve));
  }
}

core();
await server();
await closeDatabase();
rmSync(data, { recursive: true });
const ids: string[] = [];
for (let i = 0; i < 5; i++) ids.push(await storeProject(bigProject(2000)));
await closeDatabase();
await overHttp(ids);
rmSync(data, { recursive: true, force: true });
