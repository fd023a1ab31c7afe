// How jobs end: cancelled, done, left in the middle; and what their end does to edits.
import { folder } from "./folder";
import { existsSync, readdirSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { recordingsByName } from "../../src/lib/core/session/lookup";
import type { Command } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import type { NewJob } from "../../src/lib/api/jobs";
import { config } from "../../src/lib/server/config";
import { closeDatabase, database } from "../../src/lib/server/db/connection";
import { exportPath } from "../../src/lib/server/jobs/kinds/export";
import { startImport, startJob } from "../../src/lib/server/jobs/order";
import { queue } from "../../src/lib/server/jobs/queue";
import { cancelJob, resumeJobs, startRunner, wake } from "../../src/lib/server/jobs/runner";
import { closePool } from "../../src/lib/server/jobs/pool";
import { createProject, projectState } from "../../src/lib/server/services/projects";
import * as project from "../support/project";
import { cleared, ended, importing, mediaFiles, ordered, uploaded } from "../support/jobs";
import { useThreads } from "../support/threads";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";

let projectId = "";

const importBytes = (fileName: string, bytes: Uint8Array) => importing(projectId, fileName, bytes);
const order = (what: NewJob) => ordered(projectId, what);

async function document(): Promise<Document> {
  return project.documentNow(projectId);
}

const run = (command: Command) => project.run(projectId, command);

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("Test", 48000);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("the end of a job", () => {
  const rename = (name: string) => ({ command: { type: "project.rename" as const, name } });

  it("refuses no edit that was made before it and comes after it", async () => {
    const { revision } = await projectState(projectId);
    await importBytes("Between.wav", wav16(noise(3000, 0.2, 21)));
    const { refused } = await project.send(projectId, rename("Made before"), { base: revision });
    expect(refused).toEqual([]);
    const doc = await document();
    expect([doc.name, recordingsByName(doc).some((r) => r.name === "Between")]).toEqual([
      "Made before",
      true
    ]);
  });

  it("is the same recording when two imports of one sound end at once", async () => {
    const bytes = wav16(noise(3000, 0.2, 29));
    config.threads = 2;
    try {
      const jobs = await Promise.all(
        ["Twin.wav", "Other twin.wav"].map((fileName) =>
          startImport(projectId, { uploadId: uploaded(bytes), fileName })
        )
      );
      const ends = await Promise.all(jobs.map(({ id }) => ended(id)));
      expect(ends.map(({ error }) => error)).toEqual([null, null]);
      const twins = recordingsByName(await document()).filter(({ name }) => /twin/i.test(name));
      expect(twins).toHaveLength(1);
      expect(
        ends.map(({ result }) => (result as { same: string | null }).same).filter((same) => same !== null)
      ).toEqual([twins[0]?.name]);
    } finally {
      config.threads = 1;
    }
  });

  it("leaves what can be redone", async () => {
    await run(rename("To be redone").command);
    await project.step(projectId, "undo");
    await importBytes("After undo.wav", wav16(noise(3000, 0.2, 22)));
    expect((await projectState(projectId)).history.redo.at(-1)?.label).toBe("rename project");
    expect((await project.step(projectId, "redo")).name).toBe("To be redone");
  });

  it("is told to a page that comes back, with what it was asked for before", async () => {
    const since = new Date();
    const job = await importBytes("While away.wav", wav16(noise(3000, 0.2, 23)));
    const view = await queue.ofProject(projectId, since);
    expect(view.open).toEqual([]);
    expect(view.ended.map((j) => j.id)).toEqual([job.id]);
    expect((await queue.ofProject(projectId, new Date(Date.now() + 1000))).ended).toEqual([]);
  });
});

describe("an import that is cancelled", () => {
  it("at any moment leaves no file that is not a recording", async () => {
    const before = mediaFiles().filter((f) => /[0-9a-f]{64}\.wav$/.test(f)).length;
    let done = 0;
    for (let i = 0; i < 12; i++) {
      const { id } = await startImport(projectId, {
        uploadId: uploaded(wav16(noise(60000 + i, 0.2, 200 + i), 44100)),
        fileName: `Cancelled ${i}.wav`
      });
      await new Promise((resolve) => setTimeout(resolve, i * 12));
      await cancelJob(id).catch(() => undefined);
      if ((await ended(id)).state === "done") done++;
      await cleared(id);
    }
    const originals = mediaFiles().filter((f) => /[0-9a-f]{64}\.wav$/.test(f));
    expect(originals.length).toBe(before + done);
    expect(readdirSync(path.join(folder, "uploads"))).toEqual([]);
    expect(readdirSync(path.join(folder, "scratch"))).toEqual([]);
    expect(mediaFiles().filter((f) => f.endsWith(".part"))).toEqual([]);
  });
});

describe("jobs", () => {
  it("stop when they are cancelled, and leave nothing", async () => {
    const order = { kind: "export" as const, from: 0, to: 48000 * 600, format: "float32" as const };
    const { id } = await startJob(projectId, { ...order, dither: false });
    while ((await queue.find(id)).state === "queued") await new Promise((resolve) => setTimeout(resolve, 5));
    await cancelJob(id);
    expect((await ended(id)).state).toBe("cancelled");
    await cleared(id);
    expect(existsSync(exportPath(id))).toBe(false);
    expect(existsSync(path.join(folder, "scratch", id))).toBe(false);
    await expect(cancelJob(id)).rejects.toThrow("already ended");
  });

  it("are cancelled while they wait as well", async () => {
    const order = { kind: "export" as const, from: 0, to: 48000 * 600, format: "float32" as const };
    const jobs = await Promise.all([1, 2, 3].map(() => startJob(projectId, { ...order, dither: false })));
    for (const { id } of [...jobs].reverse()) await cancelJob(id);
    for (const { id } of jobs) expect((await ended(id)).state).toBe("cancelled");
  });

  it("do not end twice: a second completion does nothing", async () => {
    const job = await order({ kind: "export", from: 0, to: 4800, format: "int16", dither: true });
    let settled = 0;
    await queue.complete([job.id], () => Promise.resolve(new Map([[job.id, ++settled]])));
    await queue.fail(job.id, "late");
    expect(settled).toBe(0);
    expect(await queue.find(job.id)).toEqual(job);
  });

  it("that have ended keep no order, and are forgotten after a while", async () => {
    const job = await order({ kind: "export", from: 0, to: 4800, format: "int16", dither: true });
    const { models } = await database();
    expect((await models.Job.findByPk(job.id))?.payload).toBe("null");
    expect(await queue.forget(new Date(Date.now() - 60000))).toBe(0);
    expect(await queue.forget(new Date(Date.now() + 60000))).toBeGreaterThan(0);
    await expect(queue.find(job.id)).rejects.toThrow("no such job");
  });

  it("refuse an export that ends far behind the programme", async () => {
    const far = { kind: "export" as const, from: 0, format: "int16" as const, dither: true };
    await expect(startJob(projectId, { ...far, to: 2 ** 39 })).rejects.toThrow("far behind the programme");
  });

  it("that were under way when Wring was closed run again; measurements are cleared with a message", async () => {
    const { models } = await database();
    const base = { projectId, title: "Export Test", progress: 0.3, result: null, error: null };
    const document = (await projectState(projectId)).document;
    const payload = { kind: "export", from: 0, to: 48000, format: "int16", dither: true, document };
    await models.Job.create({
      ...base,
      id: "left-export",
      kind: "export",
      state: "running",
      payload: JSON.stringify(payload)
    });
    await models.Job.create({
      ...base,
      id: "left-measure",
      kind: "measure",
      title: "Measure x",
      state: "running",
      payload: "{}"
    });
    await resumeJobs();
    wake();
    expect((await ended("left-export")).state).toBe("done");
    expect((await queue.find("left-measure")).error).toContain("was stopped when Wring was closed");
  });

  it("do not start beyond the limit of the data folder, and say so", async () => {
    config.maxBytes = 1000;
    const job = await order({ kind: "export", from: 0, to: 48000, format: "int16", dither: true });
    config.maxBytes = Infinity;
    expect(job.state).toBe("failed");
    expect(job.error).toMatch(
      /^The mix was not exported: it needs 0\.2 MB, but only 0\.0 MB of the space for Wring's data is left\.$/
    );
  });
});
