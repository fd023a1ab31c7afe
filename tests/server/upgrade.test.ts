// A data folder of the version that landed first, opened by today's server.
import { readFileSync, rmSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { copyOfLanded, LANDED } from "../support/landed";

interface Landed {
  readonly project: string;
  readonly second: string;
  readonly documents: readonly { name: string; tracks: { clips: unknown[] }[] }[];
  readonly labels: readonly (string | null)[];
  readonly undo: string;
  readonly redo: string;
}

const landed = JSON.parse(
  gunzipSync(readFileSync(path.join(LANDED, "documents.json.gz"))).toString()
) as Landed;
const folder = copyOfLanded();
process.env.WRING_DATA = folder;
process.env.WRING_LOG = "silent";

const { closeDatabase, database } = await import("../../src/lib/server/db/connection");
const { listProjects, projectState } = await import("../../src/lib/server/services/projects");
const { listPresets } = await import("../../src/lib/server/services/presets");
const project = await import("../support/project");

describe("the landed version's folder", () => {
  beforeAll(() => database());
  afterAll(async () => {
    await closeDatabase();
    rmSync(folder, { recursive: true, force: true });
  });

  it("lists its projects with their names, lengths and tracks", async () => {
    const projects = await listProjects();
    expect(projects.map((p) => [p.name, p.tracks, Math.round(p.lengthSeconds), p.fault])).toEqual(
      expect.arrayContaining([
        ["Last Boat to Varnsey, second cut", 8, 137, null],
        ["Tests of the horn", 1, 0, null]
      ])
    );
  });

  it("opens with its whole history: undo to the first state, redo to the last", async () => {
    const { project: id, documents, labels } = landed;
    const clips = (n: number) => documents[n]?.tracks.flatMap((t) => t.clips).length;
    const before = await projectState(id);
    expect(before.history.undo.at(-1)?.label).toBe(landed.undo);
    expect(before.history.redo.at(-1)?.label).toBe(landed.redo);
    expect(before.history.undo.map((h) => h.label)).toEqual(labels.slice(1, labels.length - 3));
    let at = before.history.undo.length;
    while (at > 0) {
      const doc = await project.step(id, "undo");
      at--;
      expect([doc.name, doc.size("clips")]).toEqual([documents[at]?.name, clips(at)]);
    }
    await expect(project.step(id, "undo")).rejects.toThrow("nothing to undo");
    while (at < documents.length - 1) {
      const doc = await project.step(id, "redo");
      at++;
      expect([doc.name, doc.size("clips")]).toEqual([documents[at]?.name, clips(at)]);
    }
    await expect(project.step(id, "redo")).rejects.toThrow("nothing to redo");
  });

  it("takes new edits on top", async () => {
    const doc = await project.run(landed.second, { type: "project.rename", name: "Tests of both horns" });
    expect(doc.name).toBe("Tests of both horns");
    expect((await project.step(landed.second, "undo")).name).toBe("Tests of the horn");
  });

  it("has its presets, with the recordings that they need", async () => {
    const presets = await listPresets();
    expect(presets.map((p) => p.name)).toEqual([
      "Harbour hall",
      "Interview, recorded too low",
      "Telephone with hum"
    ]);
    const [hall] = presets;
    const impulse = String(hall?.steps[0]?.params.impulse);
    expect(hall?.recordings).toMatchObject([{ id: impulse, sampleRate: 48000 }]);
    expect(hall?.recordings[0]?.media?.startsWith(impulse)).toBe(true);
  });
});
