import "./folder";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { publish, subscribe, type ProjectEvent } from "../../src/lib/server/events";
import { needRoom } from "../../src/lib/server/services/space";
import { config } from "../../src/lib/server/config";
import { edit, stepThroughHistory } from "../../src/lib/server/services/edits";
import { deletePreset, listPresets, savePreset } from "../../src/lib/server/services/presets";
import {
  createProject,
  deleteProject,
  listProjects,
  projectState
} from "../../src/lib/server/services/projects";
import { guard } from "../../server/guard.mjs";

let id = "";
beforeAll(async () => {
  id = await createProject("Episode 1", 44100);
});
afterAll(closeDatabase);

describe("projects", () => {
  it("are listed with name, length, tracks and rate", async () => {
    const [project] = await listProjects();
    expect(project).toMatchObject({ id, name: "Episode 1", lengthSeconds: 0, tracks: 1, sampleRate: 44100 });
  });

  it("can be deleted; then they are gone with one sentence", async () => {
    const other = await createProject("Short-lived", 48000);
    await edit(other, 0, { type: "track.add", trackId: "t2", name: "Two" });
    await deleteProject(other);
    await expect(projectState(other)).rejects.toThrow("There is no such project");
    await expect(deleteProject(other)).rejects.toThrow("There is no such project");
  });
});

describe("edits", () => {
  it("move the revision on, and are refused on a stale one", async () => {
    const { revision } = await projectState(id);
    const next = await edit(id, revision, { type: "project.rename", name: "Episode one" });
    expect(next.revision).toBe(revision + 1);
    expect(next.undo).toBe("rename project");
    await expect(edit(id, revision, { type: "project.rename", name: "Other" })).rejects.toThrow(
      "changed elsewhere"
    );
    expect((await projectState(id)).document.name).toBe("Episode one");
  });

  it("are refused with a reason when they cannot be, and change nothing", async () => {
    const before = await projectState(id);
    await expect(edit(id, before.revision, { type: "clip.remove", clipIds: ["gone"] })).rejects.toThrow(
      "no longer there"
    );
    expect(await projectState(id)).toEqual(before);
  });

  it("are undone and redone by name; a new edit ends what could be redone", async () => {
    let state = await projectState(id);
    state = await edit(id, state.revision, { type: "track.set", trackId: "track-1", gainDb: -6 });
    const changed = state.document;
    state = await stepThroughHistory(id, state.revision, "undo");
    expect(state.document.tracks[0].gainDb).toBe(0);
    expect(state.redo).toBe("gain of Track 1");
    state = await stepThroughHistory(id, state.revision, "redo");
    expect(state.document).toEqual(changed);
    state = await stepThroughHistory(id, state.revision, "undo");
    state = await edit(id, state.revision, { type: "track.set", trackId: "track-1", pan: 0.5 });
    expect(state.redo).toBeNull();
    await expect(stepThroughHistory(id, state.revision, "redo")).rejects.toThrow("nothing to redo");
  });

  it("a hundred at once on the same revision: one wins, the rest are told, nothing is lost", async () => {
    const { revision } = await projectState(id);
    const names = Array.from({ length: 100 }, (_, i) => `Name ${i}`);
    const results = await Promise.allSettled(
      names.map((name) => edit(id, revision, { type: "project.rename", name }))
    );
    expect(results.filter((r) => r.status === "fulfilled").length).toBe(1);
    expect((await projectState(id)).revision).toBe(revision + 1);
  });

  it("survive closing and opening the database, undo included", async () => {
    const before = await projectState(id);
    await closeDatabase();
    expect(await projectState(id)).toEqual(before);
    const undone = await stepThroughHistory(id, before.revision, "undo");
    expect(undone.document.name).not.toBe(before.document.name);
  });

  it("are announced to the open pages of that project alone", async () => {
    const heard: ProjectEvent[] = [];
    const stop = subscribe(id, (event) => heard.push(event));
    const { revision } = await projectState(id);
    await edit(id, revision, { type: "project.rename", name: "Heard" });
    publish("other", { type: "document", revision: 7 });
    stop();
    expect(heard).toEqual([{ type: "document", revision: revision + 1 }]);
  });
});

describe("presets", () => {
  it("keep a chain under a name of its own", async () => {
    const steps = [{ id: "a", effect: "gain", on: true, params: { gainDb: 3 } }];
    const saved = await savePreset({ name: "Lift", notes: "for quiet takes", steps });
    expect(saved.steps).toEqual([{ effect: "gain", on: true, params: { gainDb: 3 } }]);
    await expect(savePreset({ name: "Lift", notes: "", steps })).rejects.toThrow(
      'already a preset named "Lift"'
    );
    expect((await listPresets()).map((p) => p.name)).toEqual(["Lift"]);
    await deletePreset(saved.id);
    expect(await listPresets()).toEqual([]);
    await expect(deletePreset(saved.id)).rejects.toThrow("no such preset");
  });
});

describe("space", () => {
  it("is refused beyond the limit, in one sentence with both numbers", () => {
    config.maxBytes = 5e6;
    expect(() => needRoom(1e9, '"long.wav" was not imported')).toThrow(
      /^"long\.wav" was not imported: it needs 1000\.0 MB, but only [0-9.]+ MB of the space for Wring's data is left\.$/
    );
    expect(() => needRoom(10, "x")).not.toThrow();
    config.maxBytes = Infinity;
  });
});

describe("the guard", () => {
  const ask = (headers: Record<string, string>, method = "GET") => guard({ method, headers }, 4680);
  it("lets this machine's own pages through", () => {
    expect(ask({ host: "127.0.0.1:4680" })).toBeUndefined();
    expect(ask({ host: "localhost:4680", origin: "http://localhost:4680" }, "POST")).toBeUndefined();
  });
  it.each([
    [{ host: "evil.example:4680" }, "GET"],
    [{ host: "127.0.0.1:9999" }, "GET"],
    [{}, "GET"],
    [{ host: "127.0.0.1:4680", origin: "http://evil.example" }, "POST"],
    [{ host: "127.0.0.1:4680", origin: "http://localhost:4680" }, "POST"],
    [{ host: "127.0.0.1:4680", origin: "null" }, "GET"],
    [{ host: "127.0.0.1:4680", "sec-fetch-site": "cross-site" }, "POST"]
  ])("refuses %o", (headers, method) => {
    expect(ask(headers as Record<string, string>, method)).toContain("Wring answers only to");
  });
});
