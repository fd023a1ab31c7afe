// Files of the version that landed first: its database with every kind of edit, and what the document was after each.
import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import path from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import { applyChanges } from "../../src/lib/core/session/commands";
import { invert } from "../../src/lib/core/session/changes";
import { Document } from "../../src/lib/core/session/document";
import { clipState } from "../../src/lib/core/session/clipState";
import { findClip, resolveClip } from "../../src/lib/core/session/lookup";
import { bringUpPreset, bringUpProject, Unreadable } from "../../src/lib/core/session/migrations/bringUp";
import type { Document1 } from "../../src/lib/core/session/migrations/version1";
import { documentFault } from "../../src/lib/core/session/validate";
import { parseChainFile } from "../../src/lib/core/session/chainFile";
import { copyOfLanded, landedEdits, LANDED } from "../support/landed";

interface Landed {
  readonly project: string;
  /** The document before the first edit and after each. */
  readonly documents: readonly Document1[];
  readonly labels: readonly (string | null)[];
  readonly newest: Document1;
  readonly undo: string;
  readonly redo: string;
}

const landed = JSON.parse(
  gunzipSync(readFileSync(path.join(LANDED, "documents.json.gz"))).toString()
) as Landed;

/** What a version 1 document said, as plain facts to compare by. */
function facts1(doc: Document1): unknown {
  return {
    name: doc.name,
    rate: doc.sampleRate,
    tracks: doc.tracks.map(({ id, name, gainDb, pan, muted, solo, clips }) => ({
      ...{ id, name, gainDb, pan, muted, solo },
      clips: clips
        .map((c) => ({
          ...c,
          fadeIn: [c.fadeIn.length, c.fadeIn.curve],
          fadeOut: [c.fadeOut.length, c.fadeOut.curve],
          render: c.render && [c.render.recordingId, c.render.origin, c.render.frames, c.render.steps]
        }))
        .sort((a, b) => (a.id < b.id ? -1 : 1))
    })),
    recordings: doc.recordings
      .map(({ id, name, frames, channels, sampleRate, kind, madeFrom }) => [
        id,
        name,
        frames,
        channels,
        sampleRate,
        kind,
        madeFrom
      ])
      .sort(),
    sections: [...doc.sections].sort((a, b) => (a.id < b.id ? -1 : 1))
  };
}

/** The same facts of a document of today. */
function facts2(doc: Document): unknown {
  const json = doc.toJson();
  const recipe = (steps: readonly { effect: string; on: boolean; params: object }[]) =>
    steps.map(({ effect, on, params }) => ({ effect, on, params }));
  return {
    name: doc.name,
    rate: doc.sampleRate,
    tracks: [...json.tracks]
      .sort((a, b) => a.order - b.order)
      .map(({ id, name, gainDb, pan, muted, solo }) => ({
        ...{ id, name, gainDb, pan, muted, solo },
        clips: json.clips
          .filter((c) => c.track === id)
          .map((clip) => resolveClip(doc, clip))
          .map(({ id: clipId, name: clipName, recordingId, start, offset, length, ...c }) => ({
            ...{ id: clipId, name: clipName, recordingId, start, offset, length },
            gainDb: c.gainDb,
            muted: c.muted,
            fadeIn: [c.fadeIn.length, c.fadeIn.shape.curve],
            fadeOut: [c.fadeOut.length, c.fadeOut.shape.curve],
            steps: c.steps.map(({ id: stepId, effect, on, params }) => ({ id: stepId, effect, on, params })),
            render: c.render && [
              c.render.recordingId,
              c.render.origin,
              c.render.frames,
              recipe(c.render.steps)
            ]
          }))
      })),
    recordings: json.recordings
      .map(({ id, name, frames, channels, sampleRate, kind, provenance }) => [
        ...[id, name, frames, channels, sampleRate, kind],
        provenance?.text ?? null
      ])
      .sort(),
    sections: json.sections.map(({ id, name, start, length }) => ({ id, name, start, length }))
  };
}

describe("a project of version 1", () => {
  let edits: Awaited<ReturnType<typeof landedEdits>>;
  beforeAll(async () => {
    edits = await landedEdits(copyOfLanded(), landed.project);
  });

  it("opens as it was, sound, with hashes where they are known", () => {
    const hash = "a".repeat(64);
    const { document } = bringUpProject(landed.newest, [], (id) => (id.startsWith("7") ? hash : null));
    const doc = Document.fromJson(document);
    expect(documentFault(doc)).toBeUndefined();
    expect(facts2(doc)).toEqual(facts1(landed.newest));
    const medias = [...doc.values("recordings")].map((r) => [r.id.startsWith("7"), r.media]);
    expect(medias).toContainEqual([true, hash]);
    expect(medias).toContainEqual([false, null]);
  });

  it("has its whole history: undo goes back through every state to the first, redo forward to the last", () => {
    const brought = bringUpProject(landed.newest, edits);
    expect(brought.edits.map((e) => e.label)).toEqual(landed.labels.slice(1));
    expect(brought.edits.filter((e) => e.undone)).toHaveLength(3);
    let doc = Document.fromJson(brought.document);
    const done = brought.edits.findIndex((e) => e.undone);
    for (let i = done; i > 0; i--) {
      doc = applyChanges(doc, invert(brought.edits[i - 1]?.changes ?? []));
      expect(facts2(doc)).toEqual(facts1(landed.documents[i - 1] as Document1));
    }
    for (const [i, edit] of brought.edits.entries()) {
      doc = applyChanges(doc, edit.changes);
      expect(facts2(doc)).toEqual(facts1(landed.documents[i + 1] as Document1));
    }
  });

  it("has edits that hold what they changed and nothing else", () => {
    const { edits: brought } = bringUpProject(landed.newest, edits);
    const tables = (label: string) =>
      brought
        .find((e) => e.label === label)
        ?.changes.map((c) => c.table)
        .sort();
    expect(tables("rename project")).toEqual(["project"]);
    expect(tables("move Bell, first")).toEqual(["clips"]);
    expect(tables("split Engineer 1")).toEqual(["chains", "clips", "clips"]);
    expect(tables("remove track Two")).toEqual(["chains", "clips", "tracks"]);
  });

  it("keeps a render rendered, and one that did not match as it was", () => {
    const [first] = landed.documents;
    const doc = Document.fromJson(bringUpProject(first).document);
    const named = (name: string) => {
      const clip = [...doc.values("clips")].find((c) => c.name === name);
      return clip && findClip(doc, clip.id)?.clip;
    };
    const [one, three] = [named("Engineer 1"), named("Engineer 3")];
    expect(one && clipState(one)).toBe("rendered");
    expect(three && clipState(three)).toBe("stale");
    expect(doc.get("recordings", one?.render?.recordingId ?? "")?.provenance).toMatchObject({
      source: one?.recordingId,
      steps: one?.render?.steps
    });
  });

  it("carries along what version 1 did not know", () => {
    const [first] = landed.documents as [Document1];
    const strange = {
      ...first,
      mood: "calm",
      tracks: first.tracks.map((t) => ({ ...t, clips: t.clips.map((c) => ({ ...c, note: "keep" })) }))
    };
    const { document } = bringUpProject(strange);
    expect(document.mood).toBe("calm");
    for (const clip of document.clips) expect(clip).toHaveProperty("note", "keep");
  });
});

describe("what cannot be brought up", () => {
  it.each([
    ["a newer version", { version: 99 }, "newer Wring"],
    ["no version", { tracks: [] }, "does not say its version"],
    ["no object", null, "no object"],
    [
      "a document of version 1 that lacks its tracks",
      { format: "wring/project/1", name: "x", sampleRate: 48000 },
      "tracks"
    ],
    ["a document of today that lacks its clips", { version: 2, project: [], tracks: [] }, "clips"]
  ])("says why: %s", (_, json, reason) => {
    expect(() => bringUpProject(json)).toThrow(Unreadable);
    expect(() => bringUpProject(json)).toThrow(reason);
  });
});

describe("presets and chain files of version 1", () => {
  it("presets get spans and their list of recordings", () => {
    const steps = [{ effect: "gain", on: true, params: { gainDb: 3 } }];
    const preset = bringUpPreset(steps);
    expect(preset).toEqual({ version: 2, steps: [{ ...steps[0], span: null }], recordings: [] });
    expect(bringUpPreset(JSON.parse(JSON.stringify(preset)))).toEqual(preset);
    expect(() => bringUpPreset({ version: 3 })).toThrow("newer Wring");
  });

  it("chain files are read as they were", () => {
    const file = readFileSync(path.join(LANDED, "lift.chain.json"), "utf8");
    expect(parseChainFile(file).steps.map((s) => s.effect)).toEqual(["gain", "limiter"]);
    expect(() => parseChainFile(file.replace("chain/1", "chain/9"))).toThrow("wring");
  });
});
