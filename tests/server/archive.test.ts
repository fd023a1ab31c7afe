// A project as one ZIP, and again a project: the same to the sample, with its history; and archives that are none.
import { folder } from "./folder";
import { existsSync, readdirSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ZipFile } from "yazl";
import type { DeliveredFile } from "../../src/lib/api/delivery";
import { standardSettings } from "../../src/lib/core/delivery/settings";
import { newClip, newStep } from "../../src/lib/core/session/make";
import { recordingsByName, tracksInOrder } from "../../src/lib/core/session/lookup";
import { archiveProject } from "../../src/lib/server/archive/write";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { deliveredPath } from "../../src/lib/server/jobs/kinds/deliver";
import { startUnpack } from "../../src/lib/server/jobs/order";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { orderDelivery } from "../../src/lib/server/services/deliveries";
import { closeReaders } from "../../src/lib/server/services/audio";
import { createProject, listProjects, projectState } from "../../src/lib/server/services/projects";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import * as project from "../support/project";
import { cleared, ended, importing, mediaFiles, uploaded } from "../support/jobs";
import { useThreads } from "../support/threads";

let projectId = "";
let archive: Buffer = Buffer.alloc(0);

async function bytesOf(stream: AsyncIterable<unknown>): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  for await (const part of stream) parts.push(part as Uint8Array);
  return Buffer.concat(parts);
}

/** Opens an archive, and waits. */
async function opened(bytes: Uint8Array, name = "Ferry.wring.zip") {
  const job = await ended((await startUnpack(uploaded(bytes), name)).id);
  await cleared(job.id);
  return job;
}

/** The mix of a project as it is delivered in 32-bit float. */
async function mixOf(id: string): Promise<Buffer> {
  const settings = { ...standardSettings(), bits: "float32" as const, pattern: "mix" };
  const [order] = await orderDelivery(id, { wanted: { what: "mix" }, settings });
  const job = await ended(order?.job.id ?? "");
  expect(job.error).toBeNull();
  expect((job.result as DeliveredFile).measurement.integratedLufs).toBeGreaterThan(-40);
  const file = readFileSync(deliveredPath(job.id) ?? "");
  return file.subarray(file.indexOf("data", 700));
}

function zipped(entries: Readonly<Record<string, Uint8Array | string>>): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [name, bytes] of Object.entries(entries)) zip.addBuffer(Buffer.from(bytes as Uint8Array), name);
  zip.end();
  return bytesOf(zip.outputStream);
}

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("Ferry", 48000);
  await importing(projectId, "Deck.wav", wav16(noise(48000, 0.2, 41)));
  await importing(projectId, "Pier.wav", wav16(noise(30000, 0.1, 42), 44100));
  const doc = await project.documentNow(projectId);
  const [track] = tracksInOrder(doc);
  const [deck, pier] = recordingsByName(doc);
  if (!track || !deck || !pier) throw new Error("The project is not as it should be.");
  await project.run(
    projectId,
    { type: "clip.add", clip: newClip("a", track.id, deck, 0), chain: null },
    { type: "clip.add", clip: newClip("b", track.id, pier, 60000, { gainDb: -3 }), chain: null },
    {
      type: "step.add",
      owner: { table: "clips", id: "a" },
      chainId: "chain-a",
      step: newStep("s", "gain", { gainDb: -6 }),
      before: null
    },
    { type: "project.rename", name: "Ferry at night" }
  );
  archive = await bytesOf((await archiveProject(projectId)).stream);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("a project archive", () => {
  it("opened where nothing of it is known is the same, to the sample, and can be undone", async () => {
    const before = await mixOf(projectId);
    closeReaders();
    const media = path.join(folder, "media");
    for (const name of readdirSync(media)) rmSync(path.join(media, name), { recursive: true });
    const job = await opened(archive);
    expect(job.error).toBeNull();
    const { projectId: id } = job.result as { projectId: string };
    expect(id).not.toBe(projectId);
    const [was, now] = [await projectState(projectId), await projectState(id)];
    expect(now.document).toEqual(was.document);
    expect(now.history).toEqual(was.history);
    expect(now.revision).toBe(was.revision);
    expect((await mixOf(id)).equals(before)).toBe(true);
    expect((await project.step(id, "undo")).name).toBe("Ferry");
    expect((await project.documentNow(projectId)).name).toBe("Ferry at night");
  });

  it("says what is missing when it cannot be made", async () => {
    const other = await createProject("Gone", 48000);
    const job = await importing(other, "Lost.wav", wav16(noise(3000, 0.2, 43)));
    const { recordingId } = job.result as { recordingId: string };
    const hash = (await project.documentNow(other)).get("recordings", recordingId)?.media ?? "";
    rmSync(path.join(folder, "media", hash.slice(0, 2), `${hash}.wav`));
    await expect(archiveProject(other)).rejects.toThrow(
      'The audio of "Lost" is missing from the data folder.'
    );
  });
});

describe("an archive that is none", () => {
  const good = () => JSON.stringify({ kind: "wring-project", version: 2, document: {}, edits: [] });
  const cases: readonly (readonly [string, () => Promise<Uint8Array> | Uint8Array, RegExp])[] = [
    [
      "random bytes",
      () => new Uint8Array(4000).map((_, i) => (i * 37) % 251),
      /it is no ZIP file that can be read/
    ],
    ["one cut in half", () => archive.subarray(0, archive.length / 2), /it is no ZIP file that can be read/],
    ["a ZIP of letters", () => zipped({ "letter.txt": "Dear" }), /it is no project archive of Wring/],
    ["one without JSON", () => zipped({ "project.json": "{" }), /its project.json is not JSON/],
    [
      "one of a newer version",
      () => zipped({ "project.json": good().replace('"version":2', '"version":99') }),
      /was made by a newer Wring/
    ],
    [
      "one with other audio than its name says",
      () =>
        zipped({ "project.json": readProject(), [`audio/${"0".repeat(64)}.wav`]: wav16(noise(100, 0.1, 1)) }),
      /is damaged: it is not what its name says/
    ],
    [
      "one without its audio",
      () => zipped({ "project.json": readProject() }),
      /the audio of "(Deck|Pier)" is not in it/
    ]
  ];

  /** project.json of the good archive. */
  let text = "";
  const readProject = () => text;

  beforeAll(async () => {
    const doc = await projectState(projectId);
    text = JSON.stringify({ kind: "wring-project", version: 2, document: doc.document, edits: [] });
  });

  it.each(cases)("%s is refused with a sentence, and leaves nothing", async (name, make, sentence) => {
    const [files, projects] = [mediaFiles(), (await listProjects()).length];
    const job = await opened(await make(), `${name}.zip`);
    expect(job.error).toMatch(new RegExp(`^"${name}.zip" was not opened: .*\\.$`));
    expect(job.error).toMatch(sentence);
    expect([mediaFiles(), (await listProjects()).length]).toEqual([files, projects]);
    expect(readdirSync(path.join(folder, "uploads"))).toEqual([]);
  });

  it("writes nothing outside its folder, whatever its entries are called", async () => {
    // A ZIP library refuses to write such names: they are put into a good archive by hand, in place of others as long.
    const bytes = Buffer.from(await zipped({ "project.json": text, "xxxx/outside.wav": "no" }));
    for (let at = bytes.indexOf("xxxx/"); at >= 0; at = bytes.indexOf("xxxx/"))
      bytes.write("../..", at, "latin1");
    const job = await opened(bytes, "climbing.zip");
    expect(job.state).toBe("failed");
    expect(existsSync(path.join(folder, "outside.wav"))).toBe(false);
  });
});
