// Changing an earlier process of a clip: what came after it is computed again, and nothing else changes.
import { folder } from "./folder";
import { readFileSync } from "node:fs";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { ExportView, JobView } from "../../src/lib/api/jobs";
import { clipState } from "../../src/lib/core/session/clipState";
import { findClip, recordingsByName } from "../../src/lib/core/session/lookup";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import { historyOf } from "../../src/lib/core/session/processes";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { exportPath } from "../../src/lib/server/jobs/kinds/export";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRecompute } from "../../src/lib/server/jobs/recompute";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { createProject } from "../../src/lib/server/services/projects";
import { noise, RATE } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import { ended, importing, ordered, rendered } from "../support/jobs";
import * as project from "../support/project";
import { useThreads } from "../support/threads";

let id = "";
let track = "";
const FRAMES = 2 * RATE;
const now = () => project.documentNow(id);
const gain = (gainDb: number) => ({ effect: "gain", on: true, params: { gainDb }, span: null });

async function clip(name: string) {
  const found = findClip(await now(), name)?.clip;
  if (!found) throw new Error(`no clip ${name}`);
  return found;
}

async function sound(from = 0, to = FRAMES): Promise<Float32Array> {
  const job = await ordered(id, { kind: "export", from, to, format: "float32", dither: false });
  expect(job.error).toBeNull();
  expect((job.result as ExportView).frames).toBe(to - from);
  const bytes = readFileSync(exportPath(job.id)).subarray(44);
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + (to - from) * 8));
}

const worst = (a: Float32Array, b: Float32Array) =>
  a.reduce((most, x, i) => Math.max(most, Math.abs(x - (b[i] ?? 0))), 0);

/** A clip that shows what was rendered of another, with a chain of its own that is rendered as well. */
beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  id = await createProject("History", RATE);
  await importing(id, "Voice.wav", wav16(noise(FRAMES, 0.2, 3), RATE));
  const [voice] = recordingsByName(await now());
  track = (await now()).toJson().tracks[0]?.id ?? "";
  const source = { id: voice?.id ?? "", name: "Voice", frames: FRAMES };
  const chain = newChain("ca", [
    newStep("g", "gain", { gainDb: -6 }),
    newStep("e", "parametric-eq", { on1: true, type1: "highPass", freq1: 200 })
  ]);
  await project.run(id, {
    type: "clip.add",
    clip: newClip("a", track, source, 4 * FRAMES, { chain: "ca", length: 60000, offset: 8000 }),
    chain
  });
  expect((await rendered(id, "a", 0.05, 0.1)).state).toBe("done");
  const made = (await clip("a")).render;
  const shown = { id: made?.recordingId ?? "", name: "Take", frames: made?.frames ?? 0 };
  await project.run(id, {
    type: "clip.add",
    clip: newClip("b", track, shown, 0, { chain: "cb" }),
    chain: newChain("cb", [newStep("l", "limiter", { gainDb: 3, ceilingDb: -6 })])
  });
  expect((await rendered(id, "b", 0, 0)).state).toBe("done");
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

async function change(
  changes: { madeId: string; steps: unknown[] }[],
  own?: { add: unknown[]; remove: string[] }
): Promise<JobView> {
  const wanted = { clipId: "b", changes: changes as never, ...(own ? { own: own as never } : {}) };
  const job = await startRecompute(id, wanted);
  return ended(job.id);
}

describe("a changed history", () => {
  it("with the same steps is the same sound, sample for sample", async () => {
    const before = await sound(0, 60000);
    const { stages } = historyOf(await now(), await clip("b"));
    expect(stages.map(({ name, steps }) => [name, steps.length])).toEqual([["Voice", 2]]);
    const [stage] = stages;
    const job = await change([{ madeId: stage?.madeId ?? "", steps: [...(stage?.steps ?? [])] }]);
    expect(job.error).toBeNull();
    expect(await sound(0, 60000)).toEqual(before);
    expect(clipState(await clip("b"))).toBe("rendered");
  });

  it("is heard in what came after it, which is computed again; other clips and one undo", async () => {
    const other = await sound(4 * FRAMES, 4 * FRAMES + 60000);
    const before = await sound(0, 60000);
    const [stage] = historyOf(await now(), await clip("b")).stages;
    const eq = stage?.steps[1];
    const job = await change([{ madeId: stage?.madeId ?? "", steps: [gain(-30), eq] }]);
    expect(job.error).toBeNull();
    const after = await sound(0, 60000);
    // 24 dB lower into the limiter that then has nothing to do: as loud as an untouched gain of 3 dB.
    expect(worst(after, before)).toBeGreaterThan(0.05);
    expect(clipState(await clip("b"))).toBe("rendered");
    expect((await clip("b")).steps.map((step) => step.effect)).toEqual(["limiter"]);
    expect(await sound(4 * FRAMES, 4 * FRAMES + 60000)).toEqual(other);
    const steps = historyOf(await now(), await clip("b")).stages[0]?.steps;
    expect(steps?.map((step) => step.params.gainDb ?? "eq")).toEqual([-30, "eq"]);
    await project.step(id, "undo");
    expect(await sound(0, 60000)).toEqual(before);
  });

  it("may lose all its steps, or have one switched off, moved or put in", async () => {
    const [stage] = historyOf(await now(), await clip("b")).stages;
    const madeId = stage?.madeId ?? "";
    const off = await change([
      { madeId, steps: (stage?.steps ?? []).map((step) => ({ ...step, on: false })) }
    ]);
    expect(off.error).toBeNull();
    const silent = await sound(0, 60000);
    await project.step(id, "undo");
    expect((await change([{ madeId, steps: [] }])).error).toBeNull();
    expect(await sound(0, 60000)).toEqual(silent);
    await project.step(id, "undo");
    const [g, e] = stage?.steps ?? [];
    expect((await change([{ madeId, steps: [e, gain(2), g] }])).error).toBeNull();
    expect(historyOf(await now(), await clip("b")).stages[0]?.steps.map((step) => step.effect)).toEqual([
      "parametric-eq",
      "gain",
      "gain"
    ]);
    await project.step(id, "undo");
  });

  it("gives a process to the clip's own chain and takes one of that: what is heard stays, as one step", async () => {
    const [stage] = historyOf(await now(), await clip("b")).stages;
    const [g, e] = stage?.steps ?? [];
    expect((await change([{ madeId: stage?.madeId ?? "", steps: [e, g] }])).error).toBeNull();
    const before = await sound(0, 60000);
    const last = async () => historyOf(await now(), await clip("b")).stages[0]?.madeId ?? "";
    const given = await change([{ madeId: await last(), steps: [e] }], { add: [g], remove: [] });
    expect(given.error).toBeNull();
    expect((await clip("b")).steps.map(({ effect }) => effect)).toEqual(["gain", "limiter"]);
    expect(clipState(await clip("b"))).not.toBe("rendered");
    const live = await sound(0, 60000);
    expect(worst(live, before)).toBeLessThan(1e-6);
    // The other way round, with what lay behind it.
    const ids = (await clip("b")).steps.map((step) => step.id);
    const limiter = (await clip("b")).steps[1];
    const taken = await change([{ madeId: await last(), steps: [e, g, limiter] }], { add: [], remove: ids });
    expect(taken.error).toBeNull();
    expect((await clip("b")).steps).toEqual([]);
    expect(worst(await sound(0, 60000), before)).toBeLessThan(1e-3);
    await project.step(id, "undo");
    expect((await clip("b")).steps.map((step) => step.id)).toEqual(ids);
    expect(await sound(0, 60000)).toEqual(live);
    await project.step(id, "undo");
    expect(await sound(0, 60000)).toEqual(before);
    await project.step(id, "undo");
  });

  it("that cannot be computed any more is refused before anything is done", async () => {
    await expect(
      startRecompute(id, { clipId: "b", changes: [{ madeId: "none", steps: [] }] })
    ).rejects.toThrow("Nothing has changed");
    await expect(
      startRecompute(id, { clipId: "gone", changes: [{ madeId: "x", steps: [] }] })
    ).rejects.toThrow("The clip is no longer there.");
    const [stage] = historyOf(await now(), await clip("b")).stages;
    await project.run(id, { type: "clip.remove", clipIds: ["a"] });
    await project.run(id, { type: "recording.remove", recordingId: stage?.recordingId ?? "" });
    await expect(
      startRecompute(id, { clipId: "b", changes: [{ madeId: stage?.madeId ?? "", steps: [] }] })
    ).rejects.toThrow("is no longer in the project: it cannot be computed again");
  });
});
