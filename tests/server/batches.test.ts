// Batches: one chain and a level for many sounds, some of them bad; reported, applied as one edit, ended once.
import { folder } from "./folder";
import { rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { BatchView, NewBatch } from "../../src/lib/api/batches";
import { clipState } from "../../src/lib/core/session/clipState";
import { findClip, recordingsByName } from "../../src/lib/core/session/lookup";
import { newClip, newStep } from "../../src/lib/core/session/make";
import { newBatchSchema } from "../../src/lib/api/batches";
import { takeUpBatches } from "../../src/lib/server/batches/end";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { originalPath } from "../../src/lib/server/media/paths";
import { batchesOf, cancelBatch, orderBatch } from "../../src/lib/server/services/batches";
import { createProject } from "../../src/lib/server/services/projects";
import { noise, RATE } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import { importing } from "../support/jobs";
import * as project from "../support/project";
import { useThreads } from "../support/threads";

let id = "";
const now = () => project.documentNow(id);
const CHAIN: NewBatch["steps"] = [
  { effect: "parametric-eq", on: true, params: { on1: true, type1: "highPass", freq1: 80 }, span: null },
  { effect: "compressor", on: true, params: { thresholdDb: -24, ratio: 3 }, span: null }
];
const LEVEL = { target: "integrated" as const, levelDb: -20, ceilingDb: -1 };

const order = (wanted: NewBatch) => orderBatch(id, newBatchSchema.parse(wanted));

async function until(batchId: string, over: (batch: BatchView) => boolean): Promise<BatchView> {
  for (;;) {
    const batch = (await batchesOf(id)).find((one) => one.id === batchId);
    if (batch && over(batch)) return batch;
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
}
const applied = (batchId: string) => until(batchId, (batch) => batch.applied !== "waiting");

async function imported(count: number, seconds = 1): Promise<string[]> {
  for (let i = 0; i < count; i++) {
    const sound = noise(Math.round(seconds * RATE), 0.05 + 0.04 * (i % 20), 1 + i);
    await importing(id, `Voice ${i}.wav`, wav16(sound, RATE));
  }
  return recordingsByName(await now()).map((recording) => recording.id);
}

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
});

beforeEach(async () => {
  id = await createProject("Batches", RATE);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("a batch", () => {
  it("treats recordings into new ones beside them, at the wanted loudness, as one edit that is undone as one", async () => {
    const ids = await imported(4);
    const first = await now();
    const { id: batch } = await order({
      name: "Weekly",
      steps: CHAIN,
      level: LEVEL,
      mode: "append",
      items: ids.map((recording) => ({ kind: "recording", id: recording }))
    });
    const done = await applied(batch);
    expect(done.applied).toBe("applied");
    expect(done.items.map((item) => item.state)).toEqual(Array(4).fill("done"));
    for (const { before, after } of done.items) {
      expect(after?.integratedLufs).toBeCloseTo(-20, 1);
      expect(before?.integratedLufs).not.toBeCloseTo(-20, 1);
    }
    const doc = await now();
    const made = recordingsByName(doc).filter((recording) => recording.kind === "render");
    expect(made.map(({ name }) => name)).toEqual([0, 1, 2, 3].map((n) => `Voice ${n}, Weekly 1`));
    expect(made[0]?.folder).toBe("Batch/Weekly");
    expect(made[0]?.provenance?.steps?.map((step) => step.effect)).toEqual([
      "parametric-eq",
      "compressor",
      "normalize"
    ]);
    await project.step(id, "undo");
    expect((await now()).toJson()).toEqual(first.toJson());
  });

  it("puts the chain on clips and renders them; versions keep what was; another batch comes behind", async () => {
    const [recording = ""] = await imported(1);
    const track = (await now()).toJson().tracks[0]?.id ?? "";
    const source = { id: recording, name: "Voice", frames: RATE };
    for (const name of ["a", "b"])
      await project.run(id, {
        type: "clip.add",
        clip: newClip(name, track, source, name === "a" ? 0 : RATE, { length: 40000 }),
        chain: null
      });
    const items = ["a", "b"].map((clip) => ({ kind: "clip" as const, id: clip }));
    const batch = await order({ name: "Weekly", steps: CHAIN, level: LEVEL, mode: "replace", items });
    expect((await applied(batch.id)).error).toBeNull();
    const clip = async (name: string) => findClip(await now(), name)?.clip;
    for (const name of ["a", "b"]) {
      const found = await clip(name);
      expect(found && clipState(found)).toBe("rendered");
      expect(found?.steps.map((step) => step.effect)).toEqual(["parametric-eq", "compressor", "normalize"]);
      expect(found?.versions?.[0]?.lufs).toBeCloseTo(-20, 1);
    }
    const gain = [{ effect: "gain", on: true, params: { gainDb: -3 }, span: null }];
    const second = await order({ name: "Lower", steps: gain, level: null, mode: "append", items });
    const lower = await applied(second.id);
    expect((lower.items[0]?.after?.integratedLufs ?? 0) + 23).toBeCloseTo(0, 1);
    expect((await clip("a"))?.steps).toHaveLength(4);
    expect((await clip("a"))?.versions).toHaveLength(2);
  });

  it("leaves a clip alone that someone worked on meanwhile, and keeps what it made beside it", async () => {
    const [recording = ""] = await imported(1);
    const track = (await now()).toJson().tracks[0]?.id ?? "";
    const source = { id: recording, name: "Voice", frames: RATE };
    await project.run(id, { type: "clip.add", clip: newClip("a", track, source, 0), chain: null });
    const items = [{ kind: "clip" as const, id: "a" }];
    const batch = await order({ name: "Weekly", steps: CHAIN, level: null, mode: "replace", items });
    const owner = { table: "clips" as const, id: "a" };
    const mine = newStep("mine", "gain", { gainDb: -7 });
    await project.run(id, { type: "step.add", owner, chainId: "own", step: mine, before: null });
    expect((await applied(batch.id)).error).toBeNull();
    const clip = findClip(await now(), "a")?.clip;
    // Whichever came first: what was made by hand is there.
    expect(clip?.steps.map((step) => step.effect)).toContain("gain");
    expect(clip?.versions).toHaveLength(1);
  });

  it("of 200 files, five of which are bad, says why for each of those and treats the others", async () => {
    const ids = await imported(200, 0.25);
    const document = await now();
    const names = ids.map((recording) => document.get("recordings", recording)?.name ?? "");
    const missing = [3, 50, 120, 199].map((i) => ids[i] ?? "");
    for (const one of missing) rmSync(originalPath(folder, document.get("recordings", one)?.media ?? ""));
    const { id: batch } = await order({
      name: "Weekly",
      steps: CHAIN,
      level: null,
      mode: "append",
      items: ids.map((recording) => ({ kind: "recording", id: recording }))
    });
    // It is the last but one: its turn has not come.
    await project.run(id, { type: "recording.remove", recordingId: ids[198] ?? "" });
    const done = await applied(batch);
    const failed = done.items.filter((item) => item.state === "failed");
    expect(failed.map(({ error }) => error)).toEqual([
      ...[3, 50, 120].map(
        (i) => `The audio of "${names[i]}" is missing from the data folder. Import it again.`
      ),
      `"${names[198]}" was not treated: the recording is no longer in the project.`,
      `The audio of "${names[199]}" is missing from the data folder. Import it again.`
    ]);
    expect(done.items.filter((item) => item.state === "done")).toHaveLength(195);
    expect(recordingsByName(await now()).filter(({ kind }) => kind === "render")).toHaveLength(195);
  }, 120000);

  it("that is cancelled keeps what was done until then, and the project is as whole as before", async () => {
    const ids = await imported(6);
    const { id: batch } = await order({
      name: "Weekly",
      steps: CHAIN,
      level: null,
      mode: "append",
      items: ids.map((recording) => ({ kind: "recording", id: recording }))
    });
    await cancelBatch(id, batch);
    const over = await until(batch, ({ items }) =>
      items.every(({ state }) => state !== "queued" && state !== "running")
    );
    const done = over.items.filter((item) => item.state === "done").length;
    if (done > 0) await applied(batch);
    expect(over.items.filter((item) => item.state === "cancelled").length).toBe(6 - done);
    expect(recordingsByName(await now()).filter(({ kind }) => kind === "render")).toHaveLength(done);
  });

  it("ends once, however often that is asked for", async () => {
    const ids = await imported(1);
    const items = ids.map((recording) => ({ kind: "recording" as const, id: recording }));
    const { id: batch } = await order({ name: "Once", steps: CHAIN, level: null, mode: "append", items });
    await Promise.all([takeUpBatches(), applied(batch), takeUpBatches()]);
    await takeUpBatches();
    expect(recordingsByName(await now()).filter(({ kind }) => kind === "render")).toHaveLength(1);
  });

  it("that cannot be read hides no other", async () => {
    const ids = await imported(1);
    const items = ids.map((recording) => ({ kind: "recording" as const, id: recording }));
    const { id: batch } = await order({ name: "Whole", steps: CHAIN, level: null, mode: "append", items });
    const broken = path.join(folder, "batches", "broken.batch.json");
    writeFileSync(broken, "{");
    expect((await applied(batch)).error).toBeNull();
    await takeUpBatches();
    rmSync(broken);
  });

  it("is refused with a sentence when it could treat nothing", async () => {
    const [recording = ""] = await imported(1);
    const items = [{ kind: "recording" as const, id: recording }];
    const none = { name: "x", steps: [], level: null, mode: "append" as const, items };
    await expect(order(none)).rejects.toThrow("there is nothing to do");
    const step = (effect: string, params = {}) => [{ effect, on: true, params, span: null }];
    await expect(order({ ...none, steps: step("reverse") })).rejects.toThrow("Reverse is for one clip");
    await expect(order({ ...none, steps: step("noise-reduction", { source: "ask" }) })).rejects.toThrow(
      "asks for a profile"
    );
    await expect(
      order({ ...none, steps: step("gain"), items: [{ kind: "clip", id: "gone" }] })
    ).rejects.toThrow("no longer there");
    await expect(
      order({ ...none, steps: [newStep("c", "convolution", { impulse: "0123456789abcdef01234567" })] })
    ).rejects.toThrow("needs a recording that was not given");
  });
});
