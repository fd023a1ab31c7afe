// A disk that fills up while Wring works on it: a small file system of its own, where the machine lets us make one.
import { spawnSync } from "node:child_process";
import { closeSync, existsSync, openSync, readdirSync, rmSync, statfsSync, writeSync } from "node:fs";
import path from "node:path";
import { Readable } from "node:stream";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import type { BatchView } from "../../src/lib/api/batches";
import { decode } from "../../src/lib/server/media/decode/decode";
import { probe } from "../../src/lib/server/media/decode/probe";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import { newFolder, ServerProcess } from "../support/serverProcess";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";

// Each starts processes: a machine may be several times slower than those it is written on.
vi.setConfig({ testTimeout: 180000, hookTimeout: 180000 });

const disk = newFolder("disk");
const canMount =
  process.getuid?.() === 0 &&
  spawnSync("mount", ["-t", "tmpfs", "-o", "size=14m", "tmpfs", disk]).status === 0;
const server = new ServerProcess(path.join(disk, "data"), 4685);
const elsewhere = newFolder("elsewhere");
const filler = path.join(disk, "filler");
const FULL = /The disk is full\. Nothing was changed; make room and try again\./;

/** Takes all room that is left. */
function fill(): void {
  const fd = openSync(filler, "w");
  for (const size of [1 << 20, 1 << 14, 4096])
    for (const bytes = Buffer.alloc(size, 1); ;)
      try {
        if (writeSync(fd, bytes) < size) break;
      } catch {
        break;
      }
  closeSync(fd);
}

const makeRoom = () => rmSync(filler, { force: true });
const free = () => statfsSync(disk).bavail * statfsSync(disk).bsize;
const rename = (name: string) => ({ command: { type: "project.rename" as const, name } });
const uploads = () => readdirSync(path.join(disk, "data", "uploads"));

describe.skipIf(!canMount)("a full disk", () => {
  let id = "";

  beforeAll(async () => {
    await server.start();
    id = await server.newProject("Full");
    const job = await server.import(id, "Voice.wav", wav16(noise(96000, 0.3, 1)));
    const { recordingId } = job.result as { recordingId: string };
    const chain = newChain("k", [newStep("s", "reverb")]);
    const recording = { id: recordingId, name: "Voice", frames: 96000 };
    const clip = newClip("c", "track-1", recording, 0, { chain: chain.id });
    await server.edit(id, { command: { type: "clip.add", clip, chain } });
  });

  afterAll(async () => {
    await server.stop("SIGKILL");
    spawnSync("umount", [disk]);
    rmSync(disk, { recursive: true, force: true });
  });

  it("refuses edits in one sentence and takes them again by itself when there is room", async () => {
    fill();
    expect(free()).toBe(0);
    // A few edits may still fit into what the log has already taken.
    let refusal = "";
    for (let i = 0; i < 400 && refusal === ""; i++)
      await server.edit(id, rename(`While full ${i}`)).catch((error: Error) => (refusal = error.message));
    expect(refusal).toMatch(/^507/);
    expect(refusal).toMatch(FULL);
    expect((await server.state(id)).document.tracks).toHaveLength(1);
    makeRoom();
    expect((await server.edit(id, rename("Room again"))).refused).toEqual([]);
  });

  it("refuses an upload that it caught in the middle, and gives its room back at once", async () => {
    const bytes = wav16(noise(1_500_000, 0.3, 2));
    const created = await server.createUpload(id, "Long.wav", bytes.length);
    expect(created.status).toBe(201);
    fill();
    const sent = await server.sendUpload(created.headers.get("location") ?? "", 0, bytes);
    expect(sent.status).toBe(507);
    expect(await sent.text()).toMatch(FULL);
    expect(uploads()).toEqual([]);
    makeRoom();
    expect((await server.edit(id, rename("After the upload"))).refused).toEqual([]);
  });

  it("refuses a short file that comes with its announcement as well, and takes it when there is room", async () => {
    const bytes = wav16(noise(200_000, 0.3, 3));
    // Its beginning is there when the disk becomes full.
    async function* slowly() {
      yield bytes.subarray(0, 1000);
      while (uploads().length === 0) await new Promise((resolve) => setTimeout(resolve, 2));
      fill();
      yield bytes.subarray(1000);
    }
    const stream = Readable.toWeb(Readable.from(slowly()));
    const sent = await server.createUpload(id, "Short.wav", bytes.length, stream as unknown as BodyInit);
    expect(sent.status).toBe(507);
    expect(await sent.text()).toMatch(FULL);
    expect(uploads()).toEqual([]);
    makeRoom();
    const again = await server.createUpload(id, "Short.wav", bytes.length, Buffer.from(bytes));
    expect(again.status).toBe(201);
    expect((await server.ended(again.headers.get("x-job") ?? "")).state).toBe("done");
  });

  it.skipIf(!existsSync("/usr/bin/ffmpeg"))("stops a decoding, and leaves nothing of it", async () => {
    const given = path.join(elsewhere, "long.flac");
    spawnSync("ffmpeg", ["-v", "error", "-f", "lavfi", "-i", "sine=d=60", "-c:a", "flac", given]);
    const target = path.join(disk, "decoded.wav");
    const sound = await probe(given);
    fill();
    // 5 MB into nothing.
    await expect(decode(given, sound, target, () => undefined)).rejects.toMatchObject({ code: "ENOSPC" });
    expect(existsSync(target)).toBe(false);
    rmSync(filler);
    // Room for its beginning.
    const half = openSync(filler, "w");
    writeSync(half, Buffer.alloc(free() - 1e6));
    closeSync(half);
    await expect(decode(given, sound, target, () => undefined)).rejects.toMatchObject({ code: "ENOSPC" });
    expect(existsSync(target)).toBe(false);
    makeRoom();
    expect((await decode(given, sound, target, () => undefined)).frames).toBe(60 * 44100);
    rmSync(target);
  });

  it("refuses a job that would not fit before it begins, with both numbers", async () => {
    const order = { kind: "export", from: 0, to: 48000 * 200, format: "float32", dither: false };
    const { id: job } = await server.post<{ id: string }>(`/api/projects/${id}/jobs`, order);
    expect((await server.ended(job)).error).toMatch(
      /^The mix was not exported: it needs 76\.8 MB, but only \d+\.\d MB of the disk is left\.$/
    );
  });

  it("ends a job that it catches with a sentence, even when that cannot be written until there is room; the server stays", async () => {
    // The longest that the disk has room for.
    const seconds = Math.floor((free() * 0.8) / (48000 * 8));
    const order = { kind: "export", from: 0, to: 48000 * seconds, format: "float32", dither: false };
    const { id: job } = await server.post<{ id: string }>(`/api/projects/${id}/jobs`, order);
    const writing = path.join(disk, "data", "scratch", job, "export.wav");
    for (let i = 0; i < 500 && !existsSync(writing); i++)
      await new Promise((resolve) => setTimeout(resolve, 2));
    for (let i = 0; i < 50; i++) {
      fill();
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    expect(server.running).toBe(true);
    makeRoom();
    const { state, error } = await server.ended(job);
    // It may have been done just before, or not begun.
    expect(["done", "failed"]).toContain(state);
    if (state === "failed") expect(error).toMatch(/disk is full|of the disk is left/);
    expect((await server.edit(id, rename("After the job"))).refused).toEqual([]);
  });

  it("in the middle of a batch: each sound that has no room says so, and the project goes on", async () => {
    const ids: string[] = [];
    for (let i = 0; i < 3; i++) {
      const job = await server.import(id, `Short ${i}.wav`, wav16(noise(48000, 0.3, 10 + i)));
      ids.push((job.result as { recordingId: string }).recordingId);
    }
    const steps = [{ effect: "gain", on: true, params: { gainDb: -6 }, span: null }];
    const items = ids.map((recording) => ({ kind: "recording", id: recording }));
    const order = { name: "Full", steps, recordings: [], level: null, mode: "append", items };
    const { id: batch } = await server.post<BatchView>(`/api/projects/${id}/batches`, order);
    fill();
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(server.running).toBe(true);
    makeRoom();
    const found = async () =>
      (await server.get<BatchView[]>(`/api/projects/${id}/batches`)).find((one) => one.id === batch);
    for (let i = 0; i < 600 && (await found())?.applied === "waiting"; i++)
      await new Promise((resolve) => setTimeout(resolve, 100));
    const ended = await found();
    const failed = ended?.items.filter((item) => item.state === "failed") ?? [];
    const done = ended?.items.filter((item) => item.state === "done") ?? [];
    expect(failed.length + done.length).toBe(3);
    for (const { error } of failed) expect(error).toMatch(/disk is full|of the disk is left/);
    const { recordings } = (await server.state(id)).document;
    expect(recordings.filter(({ kind }) => kind === "render")).toHaveLength(done.length);
    expect((await server.edit(id, rename("After the batch"))).refused).toEqual([]);
  });

  it("does not keep the server from starting after it was killed; work goes on when there is room", async () => {
    const order = { kind: "export", from: 0, to: 48000 * 10, format: "float32", dither: false };
    const { id: job } = await server.post<{ id: string }>(`/api/projects/${id}/jobs`, order);
    await server.stop("SIGKILL");
    fill();
    await server.start();
    expect((await server.state(id)).document.tracks).toHaveLength(1);
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(server.running).toBe(true);
    makeRoom();
    expect((await server.ended(job)).endedAt).not.toBeNull();
    expect((await server.edit(id, rename("Started full"))).refused).toEqual([]);
  });
});
