// The real server, killed in the middle of edits, uploads, renders and exports, again and again. After each restart the database is
// sound, every confirmed edit is there, every media file is what its name says, nothing is left over, jobs finish or say why.
// WRING_KILLS sets how often: a few times in the tests, a hundred by `npm run torture`.
import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import sqlite3 from "sqlite3";
import { afterAll, expect, it } from "vitest";
import type { JobsView } from "../../src/lib/api/jobs";
import type { Entry } from "../../src/lib/core/session/replica";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import { randomOf } from "../support/randomCommands";
import { newFolder, ServerProcess } from "../support/serverProcess";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";

const KILLS = Number(process.env.WRING_KILLS ?? 5);
const SEED = Number(process.env.WRING_TORTURE_SEED ?? 7);
const data = newFolder("crash");
const server = new ServerProcess(data, 4689);
const random = randomOf(SEED);

afterAll(async () => {
  await server.stop("SIGKILL");
  rmSync(data, { recursive: true, force: true });
});

function below(folder: string): string[] {
  const full = path.join(data, folder);
  return existsSync(full)
    ? readdirSync(full, { recursive: true, withFileTypes: true })
        .filter((e) => e.isFile())
        .map((e) => e.name)
    : [];
}

function rows<T>(sql: string): Promise<T[]> {
  return new Promise((resolve, reject) => {
    const database = new sqlite3.Database(path.join(data, "wring.sqlite"), sqlite3.OPEN_READONLY);
    database.all<T>(sql, (error, found) => {
      database.close();
      if (error) reject(error);
      else resolve(found);
    });
  });
}

let sounds = 0;

/** A short recording that is like no other, now and then at another rate. */
function sound(): Uint8Array {
  const rate = random() < 0.5 ? 48000 : 44100;
  return wav16(noise(rate / 2 + sounds, 0.3, ++sounds), rate);
}

/** Edits, uploads, renders and exports until the server is gone. Edits and short files that were confirmed are noted. */
async function work(projectId: string, confirmed: Set<string>, files: Set<string>): Promise<void> {
  const untilGone = async (act: () => Promise<unknown>) => {
    while (server.running)
      try {
        await act();
      } catch {
        // The server is gone, or coming down: the next turn sees it.
        await new Promise((resolve) => setTimeout(resolve, 5));
      }
  };
  const edits = untilGone(async () => {
    const editId = crypto.randomUUID();
    const command = {
      type: "track.set" as const,
      trackId: "track-1",
      gainDb: Math.floor(random() * 20) - 10
    };
    const { refused } = await server.edit(projectId, { command }, editId);
    if (refused.length === 0) confirmed.add(editId);
  });
  const uploads = untilGone(() => server.upload(projectId, `Take ${sounds}.wav`, sound()));
  const short = untilGone(async () => {
    const some = [1, 2, 3, 4].map(() => ({
      key: crypto.randomUUID(),
      name: `Short ${sounds}.wav`,
      bytes: sound()
    }));
    await server.sendShort(projectId, some);
    for (const { key } of some) files.add(key);
    await new Promise((resolve) => setTimeout(resolve, 40));
  });
  const jobs = untilGone(async () => {
    if (random() < 0.5) {
      const clipIds = ["a-clip"];
      const render = {
        into: "each",
        clipIds,
        upTo: null,
        handles: 0.1,
        tail: "auto",
        shared: false,
        name: null
      };
      await server.post(`/api/projects/${projectId}/renders`, render);
    } else {
      const order = { kind: "export", from: 0, to: 48000, format: "int24", dither: true };
      await server.post(`/api/projects/${projectId}/jobs`, order);
    }
    await new Promise((resolve) => setTimeout(resolve, 60));
  });
  await Promise.all([edits, uploads, short, jobs]);
}

/** Waits until all jobs have ended. */
async function settled(projectId: string): Promise<JobsView> {
  for (;;) {
    const view = await server.get<JobsView>(`/api/projects/${projectId}/jobs?since=2020-01-01T00:00:00Z`);
    if (view.open.length === 0) return view;
    await new Promise((resolve) => setTimeout(resolve, 40));
  }
}

async function check(
  projectId: string,
  confirmed: ReadonlySet<string>,
  files: ReadonlySet<string>
): Promise<void> {
  const entries = await server.get<Entry[]>(`/api/projects/${projectId}/edits?after=0`);
  const known = entries.map((e) => e.editId);
  expect([...confirmed].filter((id) => !known.includes(id))).toEqual([]);
  expect(new Set(known).size).toBe(known.length);
  const { ended } = await settled(projectId);
  for (const job of ended) if (job.state === "failed") expect(job.error).toMatch(/\.$/);
  const done = new Set(ended.filter(({ state }) => state === "done").map((job) => job.id));
  expect([...files].filter((key) => !done.has(key))).toEqual([]);
  // What a job worked with goes just after its end was told.
  for (let i = 0; i < 500 && below("scratch").length > 0; i++)
    await new Promise((resolve) => setTimeout(resolve, 20));
  expect(below("scratch")).toEqual([]);
  const [{ ok }] = (await rows<{ ok: string }>(
    "SELECT integrity_check AS ok FROM pragma_integrity_check"
  )) as [{ ok: string }];
  expect(ok).toBe("ok");
  const hashes = new Set((await rows<{ hash: string }>("SELECT hash FROM recordings")).map((r) => r.hash));
  const originals = below("media").filter((name) => /^[0-9a-f]{64}\.wav$/.test(name));
  for (const name of originals) {
    const hash = path.basename(name, ".wav");
    const bytes = readFileSync(path.join(data, "media", hash.slice(0, 2), name));
    expect(createHash("sha512-256").update(bytes).digest("hex")).toBe(hash);
    expect(hashes.has(hash)).toBe(true);
  }
  expect(originals.length).toBe(hashes.size);
  expect(below("media").filter((name) => name.endsWith(".part"))).toEqual([]);
  const exports = new Set(
    ended.filter((j) => j.kind === "export" && j.state === "done").map((j) => `${j.id}.wav`)
  );
  expect(below("exports").filter((name) => !exports.has(name))).toEqual([]);
}

it(`killed ${KILLS} times, loses nothing that was confirmed`, { timeout: 3600000 }, async () => {
  await server.start();
  const projectId = await server.newProject("Torture");
  const job = await server.import(projectId, "Voice.wav", wav16(noise(96000, 0.3, 999)));
  const { recordingId } = job.result as { recordingId: string };
  const recording = { id: recordingId, name: "Voice", frames: 96000 };
  const chain = newChain("a-chain", [newStep("s1", "gain", { gainDb: 3 }), newStep("s2", "reverb")]);
  const clip = newClip("a-clip", "track-1", recording, 0, { chain: chain.id });
  await server.edit(projectId, { command: { type: "clip.add", clip, chain } });
  const confirmed = new Set<string>();
  const files = new Set<string>();
  for (let kill = 0; kill < KILLS; kill++) {
    const working = work(projectId, confirmed, files);
    await new Promise((resolve) => setTimeout(resolve, 100 + random() * 900));
    // A slow machine has confirmed little by then: something must be at stake.
    while (server.running && Math.min(confirmed.size, files.size) <= kill + 1)
      await new Promise((resolve) => setTimeout(resolve, 5));
    await server.stop(random() < 0.8 ? "SIGKILL" : "SIGTERM");
    await working;
    await server.start();
    await check(projectId, confirmed, files);
  }
  expect(confirmed.size).toBeGreaterThan(KILLS);
  expect(files.size).toBeGreaterThan(KILLS);
  expect(sounds).toBeGreaterThan(KILLS);
});
