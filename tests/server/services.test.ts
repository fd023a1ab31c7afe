import "./folder";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { closeDatabase } from "../../src/lib/server/db/connection";
import type { ProjectNews } from "../../src/lib/api/types";
import { subscribe } from "../../src/lib/server/events";
import { reserve } from "../../src/lib/server/media/space";
import { closeAllProjects } from "../../src/lib/server/services/openProjects";
import { backupIfDue, beginBackups, listBackups } from "../../src/lib/server/db/backups";
import { sentenceOf } from "../../src/lib/server/faults";
import { parseBytes } from "../../src/lib/server/units";
import { config } from "../../src/lib/server/config";
import { deletePreset, listPresets, savePreset } from "../../src/lib/server/services/presets";
import {
  createProject,
  deleteProject,
  destroyProject,
  emptyOldBin,
  listProjects,
  projectState,
  restoreProject
} from "../../src/lib/server/services/projects";
import { documentNow, run, send, step } from "../support/project";
import { newStep, newTrack } from "../../src/lib/core/session/make";
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

  it("go into the bin when they are deleted, come back whole, and go for good after 30 days or when told so", async () => {
    const other = await createProject("Short-lived", 48000);
    await run(other, { type: "track.add", track: newTrack("t2", "Two", 2) });
    const before = await projectState(other);
    await expect(destroyProject(other)).rejects.toThrow("no such project in the bin");
    await deleteProject(other);
    await expect(projectState(other)).rejects.toThrow("There is no such project");
    await expect(deleteProject(other)).rejects.toThrow("There is no such project");
    expect((await listProjects()).find((p) => p.id === other)?.deletedAt).not.toBeNull();
    await restoreProject(other);
    expect(await projectState(other)).toEqual(before);
    await deleteProject(other);
    const day = 86400000;
    expect(await emptyOldBin(Date.now() + 29 * day)).toBe(0);
    expect(await emptyOldBin(Date.now() + 31 * day)).toBe(1);
    expect((await listProjects()).some((p) => p.id === other)).toBe(false);
  });
});

const rename = (name: string) => ({ command: { type: "project.rename" as const, name } });

describe("edits", () => {
  it("move the revision on and are confirmed by their id, with what they changed", async () => {
    const { revision } = await projectState(id);
    const answer = await send(id, rename("Episode one"), { editId: "first" });
    expect(answer).toMatchObject({ revision: revision + 1, refused: [] });
    expect(answer.entries).toMatchObject([
      { editId: "first", label: "rename project", page: "test-page", changes: [{ table: "project" }] }
    ]);
  });

  it("are applied once, however often they come", async () => {
    const { revision } = await projectState(id);
    for (let i = 0; i < 3; i++)
      await send(
        id,
        { command: { type: "track.add", track: newTrack("once", "Once", 5) } },
        { editId: "once", base: revision }
      );
    expect((await projectState(id)).revision).toBe(revision + 1);
    await run(id, { type: "track.remove", trackId: "once" });
  });

  it("made on an older revision go on top of what others did, and answer with all of it", async () => {
    const { revision } = await projectState(id);
    await run(id, { type: "track.set", trackId: "track-1", pan: 0.25 });
    const { edit } = await import("../../src/lib/server/services/edits");
    const late = {
      editId: "late",
      base: revision,
      wish: { command: { type: "track.set" as const, trackId: "track-1", gainDb: -2 } }
    };
    const answer = await edit(id, { page: "other-page", known: revision, edits: [late] });
    expect(answer.entries.map((e) => e.label)).toEqual(["pan of Track 1", "gain of Track 1"]);
    expect((await documentNow(id)).get("tracks", "track-1")).toMatchObject({ pan: 0.25, gainDb: -2 });
  });

  it("are refused one by one with a reason when they cannot be; the others of the same request go on", async () => {
    const { revision } = await projectState(id);
    const { edit } = await import("../../src/lib/server/services/edits");
    const wishes = [
      rename("One"),
      { command: { type: "clip.remove" as const, clipIds: ["gone"] } },
      rename("Two")
    ];
    const edits = wishes.map((wish, i) => ({ editId: `of-three-${i}`, base: revision, wish }));
    const answer = await edit(id, { page: "p", known: revision, edits });
    expect(answer.refused).toEqual([{ editId: "of-three-1", error: "The clip is no longer there." }]);
    expect(answer.revision).toBe(revision + 2);
    expect((await documentNow(id)).name).toBe("Two");
  });

  it("are undone and redone by name; a new edit ends what could be redone", async () => {
    const changed = await run(id, { type: "track.set", trackId: "track-1", gainDb: -6 });
    const names = async () => {
      const { history } = await projectState(id);
      return [history.undo.at(-1)?.label, history.redo.at(-1)?.label];
    };
    expect((await step(id, "undo")).get("tracks", "track-1")?.gainDb).toBe(-2);
    expect((await names())[1]).toBe("gain of Track 1");
    expect((await step(id, "redo")).toJson()).toEqual(changed.toJson());
    await step(id, "undo");
    await run(id, { type: "track.set", trackId: "track-1", pan: 0.5 });
    expect((await names())[1]).toBeUndefined();
    await expect(step(id, "redo")).rejects.toThrow("nothing to redo");
  });

  it("undo takes back the edit that it names, or nothing", async () => {
    await send(id, rename("Mine"), { editId: "mine" });
    await send(id, rename("Theirs"), { editId: "theirs", page: "other-page" });
    const { refused } = await send(id, { undo: "mine" });
    expect(refused[0]?.error).toContain('"rename project" has become the next to undo');
    expect((await documentNow(id)).name).toBe("Theirs");
  });

  it("a hundred at once: all are made, one after the other, and the last one counts", async () => {
    const { revision } = await projectState(id);
    const names = Array.from({ length: 100 }, (_, i) => `Name ${i}`);
    const answers = await Promise.all(names.map((name) => send(id, rename(name), { base: revision })));
    expect(answers.every((a) => a.refused.length === 0)).toBe(true);
    expect((await projectState(id)).revision).toBe(revision + 100);
    expect(new Set(answers.map((a) => a.revision)).size).toBe(100);
  });

  it("survive closing and opening the database, undo included", async () => {
    const before = await projectState(id);
    await closeDatabase();
    closeAllProjects();
    expect(await projectState(id)).toEqual(before);
    expect((await step(id, "undo")).name).not.toBe((before.document.project[0] as { name: string }).name);
  });

  it("are announced to the open pages of that project alone", async () => {
    const told: ProjectNews[] = [];
    const other = await createProject("Another", 48000);
    const stop = subscribe(id, (event) => told.push(event));
    const answer = await send(id, rename("Told"));
    await send(other, rename("Not told"));
    stop();
    expect(told).toEqual([{ type: "entries", entries: answer.entries }]);
  });
});

describe("presets", () => {
  it("keep a chain under a name of its own", async () => {
    // A span belongs to the sound, not to the chain: it is not kept.
    const steps = [{ ...newStep("a", "gain", { gainDb: 3 }), span: { from: 10, to: 20 } }];
    const saved = await savePreset({ name: "Lift", notes: "for quiet takes", steps, recordings: [] });
    expect(saved.steps).toEqual([{ effect: "gain", on: true, params: { gainDb: 3 }, span: null }]);
    await expect(savePreset({ name: "Lift", notes: "", steps, recordings: [] })).rejects.toThrow(
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
    expect(() => reserve(1e9, '"long.wav" was not imported')).toThrow(
      /^"long\.wav" was not imported: it needs 1\.0 GB, but only [0-9.]+ MB of the space for Wring's data is left\.$/
    );
    expect(() => reserve(10, "x")()).not.toThrow();
    config.maxBytes = Infinity;
  });

  it("that was promised is not promised again, until it is given back", () => {
    config.maxBytes = 5e6;
    const give = reserve(4e6, "a");
    expect(() => reserve(4e6, "b")).toThrow("b: it needs 4.0 MB");
    give();
    reserve(4e6, "c")();
    config.maxBytes = Infinity;
  });

  it.each([
    ["5GB", 5e9],
    ["500 MB", 5e8],
    ["2GiB", 2 ** 31],
    ["1.5k", 1500],
    ["1000000", 1e6]
  ])("is set as %s", (text, bytes) => expect(parseBytes("X", text, 0)).toBe(bytes));

  it.each(["much", "-5", "5 apples", "1e9x"])("is not set as %s: that is refused at the start", (text) => {
    expect(() => parseBytes("WRING_MAX_BYTES", text, 0)).toThrow(
      `WRING_MAX_BYTES is "${text}", which is no size.`
    );
  });
});

describe("backups", () => {
  it("are due an hour after the last one, if anything changed", async () => {
    const hour = 3600000;
    const now = Date.now();
    await beginBackups();
    expect(await backupIfDue(false, now + hour / 2)).toBeUndefined();
    await run(id, { type: "project.rename", name: "Changed for a backup" });
    const name = await backupIfDue(false, now + hour + 1000);
    expect(listBackups().map((b) => b.name)).toEqual([name]);
    expect(await backupIfDue(false, now + 3 * hour)).toBeUndefined();
    await run(id, { type: "project.rename", name: "Changed once more" });
    expect(await backupIfDue(false, now + 4 * hour)).toBeDefined();
  });
});

describe("faults", () => {
  it.each([
    [{ code: "ENOSPC" }, "The disk is full. Nothing was changed; make room and try again."],
    [
      { original: { code: "SQLITE_FULL" } },
      "The disk is full. Nothing was changed; make room and try again."
    ],
    [{ parent: { code: "SQLITE_READONLY" } }, "The data folder cannot be written to. Nothing was changed."],
    [
      { original: { code: "SQLITE_CORRUPT" } },
      "The database is damaged. Stop Wring and start it again: it then offers its backups."
    ],
    [new TypeError("x is not a function"), undefined]
  ])("of the system and the database are told in a sentence: %o", (error, sentence) => {
    expect(sentenceOf(error)).toBe(sentence);
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
