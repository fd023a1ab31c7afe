// The media store and what may happen to it: damaged, lost and truncated files, the same sound twice, what no one needs any more.
import { folder } from "./folder";
import { createHash } from "node:crypto";
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync
} from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { ExportView } from "../../src/lib/api/jobs";
import { recordingsByName } from "../../src/lib/core/session/lookup";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import type { Recording } from "../../src/lib/core/session/schema";
import { config } from "../../src/lib/server/config";
import { closeDatabase, database } from "../../src/lib/server/db/connection";
import type { ProjectNews } from "../../src/lib/api/types";
import { subscribe } from "../../src/lib/server/events";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { closePool } from "../../src/lib/server/jobs/pool";
import { MediaStore } from "../../src/lib/server/media/store";
import { chunkBytes, closeReaders, overviewBins } from "../../src/lib/server/services/audio";
import { collectUnused, registerFound } from "../../src/lib/server/services/collection";
import { checkRecording, checkSome } from "../../src/lib/server/services/condition";
import { deletePreset, listPresets, savePreset } from "../../src/lib/server/services/presets";
import {
  createProject,
  deleteProject,
  destroyProject,
  projectState
} from "../../src/lib/server/services/projects";
import { spaceView } from "../../src/lib/server/services/usage";
import { noise, sine } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import * as project from "../support/project";
import { importing as importInto, ordered, rendered } from "../support/jobs";
import { useThreads } from "../support/threads";

const store = new MediaStore(folder);
const DAY = 86400000;
let id = "";

const importing = (name: string, bytes: Uint8Array, projectId = id) => importInto(projectId, name, bytes);

async function named(name: string, projectId = id): Promise<Recording> {
  const found = recordingsByName(await project.documentNow(projectId)).find((r) => r.name === name);
  if (!found) throw new Error(`There is no recording ${name}.`);
  return found;
}

async function clipOf(recording: Recording, clipId: string, start: number): Promise<void> {
  const chain = newChain(`${clipId}-chain`, [newStep(`${clipId}-gain`, "gain", { gainDb: 3 })]);
  const clip = newClip(clipId, "track-1", recording, start, { chain: chain.id });
  await project.run(id, { type: "clip.add", clip, chain });
}

const exporting = (from: number, to: number) =>
  ordered(id, { kind: "export", from, to, format: "float32", dither: false });

/** Flips a sample in the middle of a recording's file. */
function damage(recording: Recording): void {
  const file = store.original(recording.media ?? "");
  const bytes = readFileSync(file);
  bytes[bytes.length >> 1] = (bytes[bytes.length >> 1] ?? 0) ^ 0xff;
  rmSync(file);
  writeFileSync(file, bytes);
}

function caches(recording: Recording): string[] {
  const hash = recording.media ?? "";
  const near = path.dirname(store.original(hash));
  return readdirSync(near)
    .filter((name) => name.startsWith(`${hash}.48000.`))
    .map((name) => path.join(near, name));
}

const good = wav16(sine(440, -6, 48000));
const other = wav16(noise(44100, 0.3, 5), 44100);

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  id = await createProject("Media", 48000);
  await importing("Good.wav", good);
  await importing("Other.wav", other);
  await clipOf(await named("Good"), "good", 0);
  await clipOf(await named("Other"), "other", 100000);
});

afterAll(async () => {
  closeReaders();
  await closePool();
  await closeDatabase();
});

describe("a recording that an earlier version named, by SHA-256", () => {
  const earlier = createHash("sha256").update(good).digest("hex");
  const file = store.original(earlier);

  it("is good while its content is what its name says, and damaged else", () => {
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, good);
    expect(store.verify(earlier)).toBe("good");
    writeFileSync(file, other);
    expect(store.verify(earlier)).toBe("damaged");
    rmSync(file);
  });
});

describe("a damaged recording", () => {
  it("is found by a check, told to the pages that use it, named by an export, and repaired by importing the file again", async () => {
    const recording = await named("Good");
    const told: ProjectNews[] = [];
    const stop = subscribe(id, (event) => told.push(event));
    damage(recording);
    expect(await checkRecording(recording.id, recording.media ?? "")).toBe("damaged");
    expect(told).toContainEqual({ type: "recording", id: recording.id, state: "damaged" });
    expect((await projectState(id)).broken).toEqual([{ id: recording.id, state: "damaged" }]);
    const job = await exporting(0, 48000);
    expect((job.result as ExportView).broken).toEqual(["Good"]);

    const again = await importing("Good.wav", good);
    expect([again.state, again.error]).toEqual(["done", null]);
    expect(again.result).toMatchObject({ repaired: "Good" });
    expect(new Uint8Array(readFileSync(store.original(recording.media ?? "")))).toEqual(good);
    expect(told).toContainEqual({ type: "recording", id: recording.id, state: "good" });
    expect((await projectState(id)).broken).toEqual([]);
    stop();
  });

  it("is repaired even when no one had noticed", async () => {
    const recording = await named("Good");
    damage(recording);
    expect((await importing("Good.wav", good)).state).toBe("done");
    expect(store.verify(recording.media ?? "")).toBe("good");
  });

  it("is found in the background: those that were not checked for longest come first", async () => {
    const recording = await named("Other");
    damage(recording);
    const signal = new AbortController().signal;
    expect(await checkSome(10, new Date(Date.now() + DAY), signal)).toBeGreaterThan(0);
    expect((await projectState(id)).broken).toEqual([{ id: recording.id, state: "damaged" }]);
    await importing("Other.wav", other);
    expect((await projectState(id)).broken).toEqual([]);
    expect(await checkSome(10, new Date(Date.now() - DAY), signal)).toBe(0);
  });
});

describe("a missing file", () => {
  it("of one recording stops only the jobs that need it, with a sentence that names it", async () => {
    const recording = await named("Good");
    rmSync(store.original(recording.media ?? ""));
    expect((await exporting(0, 48000)).error).toBe(
      'The audio of "Good" is missing from the data folder. Import it again.'
    );
    expect((await exporting(100000, 140000)).state).toBe("done");
    expect((await rendered(id, "other", 0, 0)).state).toBe("done");
    expect(await checkRecording(recording.id, recording.media ?? "")).toBe("missing");
    expect((await importing("Good.wav", good)).state).toBe("done");
    expect((await exporting(0, 48000)).state).toBe("done");
  });

  it.each([
    ["missing", (file: string) => rmSync(file)],
    ["cut short", (file: string) => truncateSync(file, 1000)]
  ])("that is a conformed copy or an overview, %s, is made anew", async (_, harm) => {
    const recording = await named("Other");
    const before = (await exporting(100000, 148000)).result as ExportView;
    const bins = await overviewBins(recording.id, 48000, 0, 0, 100);
    const chunk = await chunkBytes(recording.id, 48000, 0);
    expect(caches(recording)).toHaveLength(2);
    for (const file of caches(recording)) harm(file);
    closeReaders();
    expect(await overviewBins(recording.id, 48000, 0, 0, 100)).toEqual(bins);
    expect(bins.some((b) => b !== 0)).toBe(true);
    for (const file of caches(recording)) harm(file);
    closeReaders();
    expect(await chunkBytes(recording.id, 48000, 0)).toEqual(chunk);
    for (const file of caches(recording)) harm(file);
    expect((await exporting(100000, 148000)).result).toEqual(before);
  });
});

describe("the same sound", () => {
  it("imported into two projects at once is one file, whole, and a recording of both", async () => {
    const bytes = wav16(noise(60000, 0.2, 77), 44100);
    const second = await createProject("Second", 48000);
    const jobs = await Promise.all([importing("Both.wav", bytes), importing("Both.wav", bytes, second)]);
    expect(jobs.map((job) => [job.state, job.error])).toEqual([
      ["done", null],
      ["done", null]
    ]);
    const recording = await named("Both");
    expect((await named("Both", second)).media).toBe(recording.media);
    expect(store.verify(recording.media ?? "")).toBe("good");
    expect(
      readdirSync(path.dirname(store.original(recording.media ?? ""))).filter((n) => n.endsWith(".part"))
    ).toEqual([]);
  });
});

describe("a preset with an impulse response", () => {
  it("brings it along: without its recording it is not saved, with it a render in another project has the very sound", async () => {
    const room = await named("Good");
    const steps = [newStep("c", "convolution", { impulse: room.id, mixPercent: 100 })];
    await expect(savePreset({ name: "Room", notes: "", steps, recordings: [] })).rejects.toThrow(
      "needs a recording that was not given"
    );
    await savePreset({ name: "Room", notes: "", steps, recordings: [room] });
    const [preset] = await listPresets();
    expect(preset?.recordings).toMatchObject([{ id: room.id, name: "Good", media: room.media }]);

    const second = await createProject("Elsewhere", 48000);
    await importing("Voice.wav", wav16(noise(30000, 0.2, 9)), second);
    const clip = newClip("v", "track-1", await named("Voice", second), 0);
    await project.run(second, { type: "clip.add", clip, chain: null });
    const replace = {
      type: "chain.replace" as const,
      owner: { table: "clips" as const, id: "v" },
      chainId: "k",
      steps,
      source: "Room"
    };
    await expect(project.run(second, replace)).rejects.toThrow("needs a recording that is not there");
    await project.run(second, { type: "recording.add", recording: room }, replace);
    expect((await rendered(second, "v", 0, 0)).state).toBe("done");
    rmSync(store.original(room.media ?? ""));
    expect((await rendered(second, "v", 0, 1)).error).toContain('The audio of "Good" is missing');
    await importing("Good.wav", good);
    await deletePreset(preset?.id ?? "");
  });
});

describe("room", () => {
  it("for the conformed copy of an import counts, and is said before it is made", async () => {
    const bytes = wav16(noise(400000, 0.2, 31), 8000);
    config.maxBytes = (await spaceView()).total + 1_500_000;
    const job = await importing("Long.wav", bytes);
    config.maxBytes = Infinity;
    expect(job.error).toMatch(
      /^"Long\.wav" was not imported: it needs 9\.6 MB, but only 0\.\d MB of the space/
    );
  });

  it("is freed: recordings go 30 days after nothing needs them, and not before", async () => {
    const lonely = await createProject("Lonely", 48000);
    await importing("Lonely.wav", wav16(noise(50000, 0.2, 41)), lonely);
    const { media } = await named("Lonely", lonely);
    const has = () => store.has(media ?? "");
    await collectUnused();
    await deleteProject(lonely);
    expect((await collectUnused(0)).recordings).toBe(0);
    expect(has()).toBe(true);
    await destroyProject(lonely);
    const now = Date.now();
    await collectUnused(30, now);
    await collectUnused(30, now + 29 * DAY);
    expect(has()).toBe(true);
    const before = await spaceView();
    const { recordings, bytes } = await collectUnused(30, now + 31 * DAY);
    expect(has()).toBe(false);
    expect(recordings).toBeGreaterThan(0);
    const after = await spaceView();
    const originals = (view: typeof before) =>
      view.parts.filter((p) => ["used", "unused", "caches"].includes(p.id)).reduce((n, p) => n + p.bytes, 0);
    expect(originals(before) - originals(after)).toBe(bytes);
  });

  it("is not freed while a job has not ended: it may be about to use the very file", async () => {
    const lonely = await createProject("Lonely too", 48000);
    await importing("Needed again.wav", wav16(noise(45000, 0.2, 42)), lonely);
    const { media } = await named("Needed again", lonely);
    await deleteProject(lonely);
    await destroyProject(lonely);
    const { models } = await database();
    const waiting = {
      projectId: id,
      kind: "import",
      title: "x",
      progress: 0,
      payload: "null",
      result: null,
      error: null
    };
    await models.Job.create({ ...waiting, id: "a-waiting-job", state: "running" });
    expect((await collectUnused(0)).recordings).toBe(0);
    expect(store.has(media ?? "")).toBe(true);
    await models.Job.destroy({ where: { id: "a-waiting-job" } });
    expect((await collectUnused(0)).recordings).toBe(1);
    expect(store.has(media ?? "")).toBe(false);
  });

  it("is kept for what undo would bring back", async () => {
    const bytes = wav16(noise(40000, 0.2, 51));
    await importing("Undone.wav", bytes);
    const recording = await named("Undone");
    await project.run(id, { type: "recording.remove", recordingId: recording.id });
    await collectUnused(0);
    expect(store.has(recording.media ?? "")).toBe(true);
    await project.step(id, "undo");
    expect((await named("Undone")).id).toBe(recording.id);
  });

  it("is shown by what takes it, with a rule for each part", async () => {
    const { total, parts } = await spaceView();
    const sum = parts.reduce((n, part) => n + part.bytes, 0);
    expect(sum).toBeLessThanOrEqual(total);
    expect(parts.every((part) => part.rule.endsWith("."))).toBe(true);
    expect(parts.find((part) => part.id === "used")?.bytes).toBeGreaterThan(good.length);
  });
});

describe("a file that no row tells of", () => {
  it("is noted and kept like any recording; parts and old caches go", async () => {
    const bytes = wav16(noise(20000, 0.2, 61));
    await importing("Known.wav", bytes);
    const recording = await named("Known");
    const { models } = await database();
    await models.Recording.destroy({ where: { id: recording.id } });
    const near = path.dirname(store.original(recording.media ?? ""));
    const left = [
      `${recording.media}.48000.wav`,
      `${recording.media}.48000.overview`,
      `${recording.media}.wav.abc.part`
    ];
    for (const name of left) writeFileSync(path.join(near, name), "old");
    store.sweep();
    await registerFound();
    for (const name of left) expect(existsSync(path.join(near, name))).toBe(false);
    expect(await models.Recording.findByPk(recording.id)).toMatchObject({
      hash: recording.media,
      state: "good"
    });
  });
});
