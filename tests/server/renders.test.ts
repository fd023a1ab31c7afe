// Renders of several clips, of their first steps, shared, whole recordings, all as one; taken back; two pages at once.
import { folder } from "./folder";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { NewRenders } from "../../src/lib/api/renders";
import type { ExportView } from "../../src/lib/api/jobs";
import { clipState } from "../../src/lib/core/session/clipState";
import { findClip, recordingsByName } from "../../src/lib/core/session/lookup";
import { newChain, newClip, newStep } from "../../src/lib/core/session/make";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { exportPath } from "../../src/lib/server/jobs/kinds/export";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRenders } from "../../src/lib/server/jobs/renders";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { createProject } from "../../src/lib/server/services/projects";
import { chunkBytes } from "../../src/lib/server/services/audio";
import { readFileSync } from "node:fs";
import { noise, RATE } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import { ended, importing, ordered } from "../support/jobs";
import * as project from "../support/project";
import { useThreads } from "../support/threads";

let id = "";
let recordingId = "";
const FRAMES = 3 * RATE;
const now = () => project.documentNow(id);
const EACH = { into: "each", upTo: null, handles: 0.1, tail: 0, shared: false, name: null } as const;

async function renders(wanted: NewRenders) {
  const jobs = await startRenders(id, wanted);
  return Promise.all(jobs.map((job) => ended(job.id)));
}

async function clip(clipId: string) {
  const found = findClip(await now(), clipId)?.clip;
  if (!found) throw new Error(`no clip ${clipId}`);
  return found;
}

async function sound(from = 0, to = 2 * RATE): Promise<Buffer> {
  const job = await ordered(id, { kind: "export", from, to, format: "float32", dither: false });
  expect(job.error).toBeNull();
  expect((job.result as ExportView).frames).toBe(to - from);
  return readFileSync(exportPath(job.id)).subarray(44);
}

const steps = (n: string) => [
  newStep(`g${n}`, "gain", { gainDb: -6 }),
  newStep(`e${n}`, "parametric-eq", { on1: true, type1: "highPass", freq1: 90 }),
  newStep(`l${n}`, "limiter", { gainDb: 4, ceilingDb: -3 })
];

/** Three clips: two show the same stretch, treated alike. */
beforeAll(async () => {
  await useThreads(folder);
  startRunner();
});

beforeEach(async () => {
  id = await createProject("Renders", RATE);
  await importing(id, "Voice.wav", wav16(noise(FRAMES, 0.4, 3), RATE));
  const [recording] = recordingsByName(await now());
  recordingId = recording?.id ?? "";
  const source = { id: recordingId, name: "Voice", frames: FRAMES };
  const places = [
    ["a", 0, 24000],
    ["b", 60000, 24000],
    ["c", 30000, 30000]
  ] as const;
  const { tracks } = (await now()).toJson();
  const track = tracks[0]?.id ?? "";
  for (const [name, start, offset] of places)
    await project.run(id, {
      type: "clip.add",
      clip: newClip(name, track, source, start, {
        offset,
        length: 20000,
        chain: `ch${name}`,
        name: `Clip ${name}`
      }),
      chain: newChain(`ch${name}`, steps(name))
    });
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("renders", () => {
  it("of several clips are queued, one recording each, named after source, steps and a number; taken back together", async () => {
    const before = await sound();
    const jobs = await renders({ ...EACH, clipIds: ["a", "b", "c"] });
    expect(jobs.map((job) => job.state)).toEqual(["done", "done", "done"]);
    for (const one of ["a", "b", "c"]) expect(clipState(await clip(one))).toBe("rendered");
    expect(await sound()).toEqual(before);
    const names = recordingsByName(await now()).map(({ name }) => name);
    // Two clips sound the same: their files are one, by its content.
    expect(names).toEqual([
      "Voice",
      "Voice, Gain, Parametric EQ, Limiter 1",
      "Voice, Gain, Parametric EQ, Limiter 2"
    ]);
    expect((await clip("a")).versions).toMatchObject([{ name: "Voice, Gain, Parametric EQ, Limiter 1" }]);
    const { lufs } = (await clip("a")).versions?.[0] ?? {};
    expect(lufs).toBeLessThan(-5);
    expect(lufs).toBeGreaterThan(-30);
    await project.run(id, { type: "clip.restore", clipIds: ["a", "b", "c"] });
    expect(await sound()).toEqual(before);
    expect(await renders({ ...EACH, clipIds: ["a", "b", "c"] })).toHaveLength(3);
    expect(await renders({ ...EACH, clipIds: ["a", "b", "c"] })).toEqual([]);
  });

  it("compute a stretch once that several clips show alike", async () => {
    const before = await sound();
    const jobs = await renders({ ...EACH, clipIds: ["a", "b", "c"], shared: true, name: "Take" });
    expect(jobs.map((job) => job.title)).toEqual(["Render Clip a and 1 more", "Render Clip c"]);
    expect((await clip("a")).render?.recordingId).toBe((await clip("b")).render?.recordingId);
    expect(clipState(await clip("b"))).toBe("rendered");
    expect(recordingsByName(await now()).map(({ name }) => name)).toEqual(["Take 1", "Take 2", "Voice"]);
    expect(await sound()).toEqual(before);
  });

  it("reach up to any step: the later ones play live on top, the sound stays the same", async () => {
    const before = await sound();
    for (const upTo of [1, 2, 3]) {
      await renders({ ...EACH, clipIds: ["a"], upTo });
      expect(clipState(await clip("a"))).toBe(upTo === 3 ? "rendered" : "live");
      expect((await clip("a")).render?.steps).toHaveLength(upTo);
      expect(await sound()).toEqual(before);
    }
    expect((await clip("a")).versions).toHaveLength(3);
  });

  it("of the whole recording leave room to trim the clip to its ends", async () => {
    await renders({ ...EACH, clipIds: ["a"], handles: "all" });
    expect((await clip("a")).render).toMatchObject({ origin: 0, frames: FRAMES });
    const span = { start: 0, offset: 0, length: FRAMES };
    await project.run(id, { type: "clip.trim", clipId: "a", ...span });
    expect(clipState(await clip("a"))).toBe("rendered");
  });

  it("of all clips as one lie on a track of their own, the clips are muted, and one undo takes it back", async () => {
    const before = await sound(0, 90000);
    const first = await now();
    const [job] = await renders({ into: "one", clipIds: ["a", "b", "c"], name: "Take" });
    expect(job?.error).toBeNull();
    const doc = await now();
    expect(
      [...doc.values("clips")]
        .filter(({ muted }) => muted)
        .map((c) => c.id)
        .sort()
    ).toEqual(["a", "b", "c"]);
    expect([...doc.values("tracks")].map(({ name }) => name)).toContain("Take 1");
    const after = await sound(0, 90000);
    const worst = new Float32Array(
      before.buffer.slice(before.byteOffset, before.byteOffset + before.length)
    ).reduce((most, x, i) => Math.max(most, Math.abs(x - after.readFloatLE(i * 4))), 0);
    expect(worst).toBe(0);
    await project.step(id, "undo");
    expect((await now()).toJson().clips).toEqual(first.toJson().clips);
  });

  it("of one clip by two pages at once both end, and nothing is lost", async () => {
    const both = await Promise.all([
      renders({ ...EACH, clipIds: ["a"] }),
      renders({ ...EACH, clipIds: ["a"], tail: 0.2 })
    ]);
    expect(both.flat().map((job) => job.state)).toEqual(["done", "done"]);
    expect(clipState(await clip("a"))).toBe("rendered");
    expect((await clip("a")).versions).toHaveLength(2);
  });

  it("of a clip that has gone meanwhile keep what was made; one that changed says that it no longer matches", async () => {
    const jobs = await startRenders(id, { ...EACH, clipIds: ["a", "c"] });
    await project.run(id, { type: "clip.remove", clipIds: ["c"], closeGap: false });
    const owner = { table: "clips" as const, id: "a" };
    await project.run(id, { type: "step.set", owner, stepId: "ga", params: { gainDb: -1 } });
    const done = await Promise.all(jobs.map((job) => ended(job.id)));
    expect(done.map((job) => job.state)).toEqual(["done", "done"]);
    expect(clipState(await clip("a"))).toBe("stale");
  });

  it("are refused with a sentence when there is nothing to render", async () => {
    await project.run(id, {
      type: "chain.replace",
      owner: { table: "clips", id: "a" },
      chainId: "x",
      steps: [],
      source: "nothing"
    });
    await expect(startRenders(id, { ...EACH, clipIds: ["a"] })).rejects.toThrow(
      '"Clip a" has no step that is on: there is nothing to render.'
    );
    await expect(startRenders(id, { ...EACH, clipIds: ["gone"] })).rejects.toThrow("no longer there");
  });
});

describe("an independent recording", () => {
  it("sounds, is exported and rendered from the same audio", async () => {
    const before = await sound();
    await project.run(id, {
      type: "clip.independent",
      clipIds: ["a"],
      recordingId: `${recordingId}-x1`,
      name: "Voice (2)",
      chainId: "nc",
      stepIds: []
    });
    expect(await sound()).toEqual(before);
    expect(await chunkBytes(`${recordingId}-x1`, RATE, 0)).toEqual(await chunkBytes(recordingId, RATE, 0));
    expect((await renders({ ...EACH, clipIds: ["a"] }))[0]?.state).toBe("done");
    expect(await sound()).toEqual(before);
  });
});
