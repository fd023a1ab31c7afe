// Many short files in one request: each becomes a recording once, and what is wrong with one is its own affair.
import { folder } from "./folder";
import { randomUUID } from "node:crypto";
import { existsSync, readdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { JobView } from "../../src/lib/api/jobs";
import { SHORT_TOGETHER, shortFilesBody, type ShortFileAnswer } from "../../src/lib/api/shortFiles";
import { recordingsByName } from "../../src/lib/core/session/lookup";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { closePool } from "../../src/lib/server/jobs/pool";
import { cancelJob, startRunner, stopRunner } from "../../src/lib/server/jobs/runner";
import { createProject, projectState } from "../../src/lib/server/services/projects";
import { giveUpShortFile, takeShortFiles } from "../../src/lib/server/shortFiles";
import { takeUpUploads } from "../../src/lib/server/uploads";
import { sine } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import * as project from "../support/project";
import { ended, ordered } from "../support/jobs";
import { useThreads } from "../support/threads";

interface Sent {
  readonly key: string;
  readonly name: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly folder?: string;
}

let id = "";
let pitch = 100;

/** A file whose sound no other has. */
const file = (name: string, change: Partial<Sent> = {}): Sent => ({
  key: randomUUID(),
  name,
  bytes: wav16(sine(pitch++, -20, 4800)),
  ...change
});

async function send(files: readonly Sent[], projectId = id): Promise<ShortFileAnswer[]> {
  const body = shortFilesBody(
    files.map(({ key, name, bytes, folder: shelf = "" }) => ({
      key,
      name,
      size: bytes.length,
      folder: shelf,
      partial: false
    })),
    files.map(({ bytes }) => new Blob([bytes]))
  );
  return takeShortFiles(projectId, new Uint8Array(await body.arrayBuffer()));
}

/** The jobs of answers, once they have ended. */
function jobsOf(answers: readonly ShortFileAnswer[]): Promise<JobView[]> {
  return Promise.all(
    answers.map((answer) => {
      if (!("job" in answer)) throw new Error(JSON.stringify(answer));
      return ended(answer.job.id);
    })
  );
}

const names = async () => recordingsByName(await project.documentNow(id)).map(({ name }) => name);
const history = async () => (await projectState(id)).history.undo;
const uploads = () =>
  existsSync(path.join(folder, "uploads")) ? readdirSync(path.join(folder, "uploads")) : [];

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
});
beforeEach(async () => {
  id = await createProject("Short", 48000);
});
afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("files of one request", () => {
  it("come in together: fewer edits than files, taken back and brought again as they came", async () => {
    const files = Array.from({ length: SHORT_TOGETHER }, (_, i) =>
      file(`Take ${i + 1}.wav`, { folder: "Day 1/ ../Room" })
    );
    const jobs = await jobsOf(await send(files));
    expect(jobs.map(({ state }) => state)).toEqual(files.map(() => "done"));
    expect(jobs.map((job) => job.id)).toEqual(files.map(({ key }) => key));
    const doc = await project.documentNow(id);
    expect(await names()).toHaveLength(SHORT_TOGETHER);
    expect(new Set([...doc.values("recordings")].map((r) => r.folder))).toEqual(new Set(["Day 1/Room"]));
    const edits = await history();
    expect(edits.length).toBeLessThanOrEqual(SHORT_TOGETHER / 2);
    expect(edits[0]?.label).toMatch(/^import Take \d+, and \d+ more$/);
    for (const _ of edits) await project.step(id, "undo");
    expect(await names()).toEqual([]);
    for (const _ of edits) await project.step(id, "redo");
    expect(await names()).toHaveLength(SHORT_TOGETHER);
    expect(uploads()).toEqual([]);
  });

  it("that cannot be used are refused one by one; the others are there", async () => {
    const answers = await send([
      file("Good.wav"),
      file("Text.wav", { bytes: new TextEncoder().encode("this is no sound at all") }),
      file("Empty.wav", { bytes: new Uint8Array(0) }),
      file("Cut.wav", { bytes: wav16(sine(333, -20, 4800)).slice(0, 3000) }),
      file("Fine.wav")
    ]);
    expect(answers[2]).toEqual({ refused: expect.stringMatching(/"Empty\.wav" .*it is empty/) as string });
    const jobs = await jobsOf(answers.filter((answer) => "job" in answer));
    expect(jobs.map(({ state }) => state)).toEqual(["done", "failed", "failed", "done"]);
    expect(jobs[1]?.error).toMatch(/"Text\.wav" .*no sound that can be read/);
    expect(jobs[2]?.error).toMatch(/"Cut\.wav" .*truncated/);
    expect(await names()).toEqual(["Fine", "Good"]);
    expect(uploads()).toEqual([]);
  });

  it("that hold the same sound are one recording, and say so", async () => {
    const bytes = wav16(sine(777, -14, 4800));
    const files = [file("One.wav", { bytes }), file("Other.wav"), file("Two.wav", { bytes })];
    const jobs = await jobsOf(await send(files));
    expect(jobs.map(({ state }) => state)).toEqual(["done", "done", "done"]);
    expect(await names()).toHaveLength(2);
    const told = jobs.map(({ result }) => (result as { same: string | null }).same);
    expect(told.filter((same) => same !== null)).toHaveLength(1);
    expect(told[1]).toBeNull();
  });

  it("are taken once, however often they are sent: while they wait, and when they are in", async () => {
    const files = [file("Once.wav"), file("Only.wav")];
    const [first = [], again = []] = await Promise.all([send(files), send(files)]);
    const keys = files.map(({ key }) => key);
    for (const answers of [first, again])
      expect(answers.map((answer) => "job" in answer && answer.job.id)).toEqual(keys);
    await jobsOf(first);
    const late = await jobsOf(await send(files));
    expect(late.map(({ result }) => (result as { same: string | null }).same)).toEqual([null, null]);
    expect(await names()).toEqual(["Once", "Only"]);
  });
});

describe("a file that is given up", () => {
  it("before it has arrived is not taken", async () => {
    const [gone, kept] = [file("Gone.wav"), file("Kept.wav")];
    await giveUpShortFile(gone.key);
    const answers = await send([gone, kept]);
    expect(answers[0]).toEqual({ givenUp: true });
    await jobsOf(answers.slice(1));
    expect(await names()).toEqual(["Kept"]);
  });

  it("while it waits is not imported; the others are", async () => {
    stopRunner();
    const files = [file("Left.wav"), file("Right.wav"), file("Middle.wav")];
    const answers = await send(files);
    await giveUpShortFile(files[1]?.key ?? "");
    await giveUpShortFile(files[1]?.key ?? "");
    startRunner();
    const jobs = await jobsOf(answers);
    expect(jobs.map(({ state }) => state)).toEqual(["done", "cancelled", "done"]);
    expect(await names()).toEqual(["Left", "Middle"]);
  });

  it("at any moment is either there or not, and says which", async () => {
    for (let i = 0; i < 10; i++) {
      const files = Array.from({ length: 4 }, (_, n) => file(`Moment ${i} ${n}.wav`));
      const answers = await send(files);
      await new Promise((resolve) => setTimeout(resolve, i * 6));
      const key = files[2]?.key ?? "";
      await cancelJob(key).catch((error: unknown) => expect(String(error)).toContain("already ended"));
      const jobs = await jobsOf(answers);
      const done = jobs.filter(({ state }) => state === "done").length;
      expect(done).toBeGreaterThanOrEqual(3);
      expect((await names()).filter((name) => name.startsWith(`Moment ${i} `))).toHaveLength(done);
    }
  });

  it("when it is in stays, and that is said", async () => {
    const [only] = [file("Stays.wav")];
    await jobsOf(await send([only]));
    await expect(giveUpShortFile(only.key)).rejects.toThrow("it is in already");
    expect(await names()).toEqual(["Stays"]);
    expect(await send([only])).toMatchObject([{ job: { state: "done" } }]);
  });
});

describe("a request that is not right", () => {
  const sent = (text: string) => takeShortFiles(id, new TextEncoder().encode(text));
  const told = (change: object) =>
    JSON.stringify([{ key: randomUUID(), name: "A.wav", size: 3, folder: "", partial: false, ...change }]);

  it.each([
    ["has no line", () => "no line at all", "does not begin with a line"],
    ["tells nothing", () => "[]\n", "not told as they should be"],
    ["has a key that is none", () => `${told({ key: "../x" })}\nabc`, "not told as they should be"],
    ["tells a long file", () => `${told({ size: 2 ** 21 })}\nabc`, "not told as they should be"],
    ["is too short", () => `${told({})}\nab`, "not as long as its files"],
    ["is too long", () => `${told({})}\nabcd`, "not as long as its files"]
  ])("is refused when it %s", async (_, body, why) => {
    await expect(sent(body())).rejects.toThrow(why);
    expect(uploads()).toEqual([]);
  });

  it("names a project that is there, and keys of its own", async () => {
    await expect(send([file("Nowhere.wav")], randomUUID())).rejects.toThrow("no such project");
    const taken = file("Here.wav");
    await jobsOf(await send([taken]));
    const other = await createProject("Other", 48000);
    await expect(send([taken], other)).rejects.toThrow("the key of something else");
    const order = { kind: "export" as const, from: 0, to: 4800, format: "int16" as const, dither: true };
    const job = await ordered(id, order);
    await expect(send([file("Export.wav", { key: job.id })])).rejects.toThrow("the key of something else");
  });
});

it("what a request left that was never answered goes at the next start", async () => {
  const name = randomUUID().replaceAll("-", "");
  writeFileSync(path.join(folder, "uploads", name), "half of a request");
  await takeUpUploads();
  expect(uploads()).toEqual([]);
});
