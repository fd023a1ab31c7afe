// Actions that make something new: what they ask the session for.
import { describe, expect, it, vi } from "vitest";
import { applyCommand, type Command } from "../../src/lib/core/session/commands";
import { Document } from "../../src/lib/core/session/document";
import { findClip } from "../../src/lib/core/session/lookup";
import { MIX, stepsOfOwner } from "../../src/lib/core/session/owners";
import { newRecipeStep, newRecording } from "../../src/lib/core/session/make";
import { actions, keyText } from "../../src/lib/ui/state/actions";
import { MENUS } from "../../src/lib/ui/state/actions/menus";
import { Selection } from "../../src/lib/ui/state/selection.svelte";
import type { Session } from "../../src/lib/ui/state/session.svelte";
import { applyPreset } from "../../src/lib/ui/state/editing";
import type { Editor } from "../../src/lib/ui/state/editor.svelte";
import { smallProject } from "../support/randomCommands";

/** An editor on a document, with a clip selected. */
function editorOn(clipId: string | null, position = 0, document = smallProject()) {
  const state = { document, labels: [] as string[] };
  const session = {
    get document() {
      return state.document;
    },
    get shown() {
      return state.document;
    },
    run(command: Command) {
      const applied = applyCommand(state.document, command);
      state.document = applied.document;
      state.labels.push(applied.label);
      return true;
    }
  };
  const selection = new Selection(session as unknown as Session);
  if (clipId !== null) selection.choose(clipId);
  const transport = {
    position,
    locate(frame: number) {
      this.position = frame;
    }
  };
  const preferences = {
    rule: "stayClear",
    blendMs: 5,
    nudgeMs: 10,
    crossMs: 20,
    newFade: { curve: "smooth" }
  };
  const view: { track: string | null } = { track: null };
  const editor = { session, selection, transport, preferences, view, clipboard: null, sampleRate: 48000 };
  return { editor: editor as unknown as Editor, state, selection };
}

const run = (id: string, editor: Editor) => actions.find((a) => a.id === id)?.run(editor);

describe("a preset with an impulse response", () => {
  const room = newRecording("room", {
    name: "Room",
    media: null,
    frames: 44100,
    channels: 2,
    sampleRate: 44100,
    kind: "import"
  });
  const preset = {
    id: "p",
    name: "In the room",
    notes: "",
    tags: [],
    factory: false,
    steps: [newRecipeStep("convolution", { impulse: "room" })],
    recordings: [room]
  };

  it("brings its recording along, at the project's rate, as one edit", () => {
    const { editor, state, selection } = editorOn("c4");
    applyPreset(editor, preset);
    expect(state.labels).toEqual(["apply In the room to Clip 4"]);
    expect(state.document.get("recordings", "room")?.frames).toBe(48000);
    expect(selection.stepId).toBe(findClip(state.document, "c4")?.clip.steps[0]?.id);
    applyPreset(editor, preset);
    expect(state.document.size("recordings")).toBe(3);
  });

  it("goes to the mix when no clip is selected", () => {
    const { editor, state } = editorOn(null);
    applyPreset(editor, preset);
    expect(state.labels).toEqual(["apply In the room to the mix"]);
    expect(stepsOfOwner(state.document, MIX).map((s) => s.effect)).toEqual(["convolution"]);
  });
});

describe("actions", () => {
  it("split at the playhead: both parts have the chain, each its own", async () => {
    const { editor, state } = editorOn("c1", 70000);
    run("split", editor);
    await vi.waitFor(() => expect(state.labels).toEqual(["split Clip 1"]));
    const parts = [...state.document.values("clips")].filter((c) => c.name === "Clip 1");
    expect(parts.map((c) => c.length).sort((a, b) => a - b)).toEqual([20000, 28000]);
    expect(new Set(parts.map((c) => c.chain)).size).toBe(2);
    expect(parts.every((c) => findClip(state.document, c.id)?.clip.steps.length === 2)).toBe(true);
    // The first part stays chosen; the playhead farther on splits the second.
    editor.transport.locate(80000);
    run("split", editor);
    await vi.waitFor(() => expect(state.labels).toHaveLength(2));
    const three = [...state.document.values("clips")].filter((c) => c.name === "Clip 1");
    expect(three.map((c) => c.length).sort((a, b) => a - b)).toEqual([10000, 18000, 20000]);
  });

  it("duplicate: the copy lies behind, with a chain of its own, and is selected", () => {
    const { editor, state, selection } = editorOn("c1");
    run("duplicate", editor);
    const copy = state.document.get("clips", selection.clipIds[0] ?? "");
    expect(copy).toMatchObject({ name: "Clip 1", start: 98000, track: "t2" });
    expect(copy?.chain).not.toBe(state.document.get("clips", "c1")?.chain);
  });

  it("add a track below all others, and a clip to a project without tracks", () => {
    const { editor, state } = editorOn("c1");
    run("track", editor);
    const made = [...state.document.values("tracks")].find((t) => t.name === "Track 4");
    expect(made?.order).toBe(4);
    // It is scrolled to.
    expect(editor.view.track).toBe(made?.id);
    run("clearChain", editor);
    expect(state.document.get("clips", "c1")?.chain).toBeNull();
  });

  it("have keys that can be read", () => {
    expect(keyText("$mod+Shift+z")).toBe("Ctrl Shift Z");
    expect(keyText("+")).toBe("+");
    expect(new Set(actions.map((a) => a.id)).size).toBe(actions.length);
  });
});

describe("what is selected", () => {
  /** Tracks t1 … t3 with clips c0 … c5, each 48000 long, 50000 apart: c0 and c3 lie on t1. */
  const lanes = (doc: Document, track: string) =>
    [...doc.values("clips")]
      .filter((clip) => clip.track === track)
      .sort((a, b) => a.start - b.start)
      .map((clip) => `${clip.name} ${clip.start}+${clip.length}`);

  it("is chosen with Shift from the last one to this one, with Ctrl one by one, in groups together", () => {
    const { editor, selection } = editorOn("c0");
    selection.choose("c4", "between");
    expect([...selection.clipIds].sort()).toEqual(["c0", "c1", "c3", "c4"]);
    selection.choose("c3", "toggle");
    expect([...selection.clipIds].sort()).toEqual(["c0", "c1", "c4"]);
    run("group", editor);
    selection.choose("c5");
    selection.choose("c1");
    expect([...selection.clipIds].sort()).toEqual(["c0", "c1", "c4"]);
    run("ungroup", editor);
    selection.choose("c1");
    expect(selection.clipIds).toEqual(["c1"]);
  });

  it("goes back from the range to the clips to nothing", () => {
    const { editor, selection } = editorOn("c1");
    selection.range = { from: 0, to: 100 };
    const enabled = () => actions.find((a) => a.id === "stepBack")?.enabled(editor);
    run("stepBack", editor);
    expect([selection.range, selection.clipIds]).toEqual([null, ["c1"]]);
    run("stepBack", editor);
    expect([selection.clipIds.length, enabled()]).toEqual([0, false]);
  });

  it("follows a section whose time is selected", () => {
    const { editor, selection, state } = editorOn(null);
    selection.chooseSection("sec");
    expect(selection.range).toEqual({ from: 0, to: 96000, tracks: null });
    editor.session.run({ type: "section.set", sectionId: "sec", start: 1000 });
    expect(selection.range).toEqual({ from: 1000, to: 97000, tracks: null });
    editor.session.run({ type: "section.remove", sectionId: "sec" });
    expect(selection.range).toBeNull();
    expect(state.labels).toEqual(["move section Opening", "remove section Opening"]);
  });

  it("is copied, cut and pasted: of a range its part alone, at the playhead, with its chain", () => {
    const { editor, state, selection } = editorOn("c1", 200000);
    selection.range = { from: 60000, to: 70000 };
    run("copy", editor);
    run("paste", editor);
    expect(lanes(state.document, "t2")).toContain("Clip 1 190000+10000");
    const pasted = findClip(state.document, selection.clipIds[0] ?? "")?.clip;
    expect(pasted).toMatchObject({ offset: 11000, name: "Clip 1" });
    expect(pasted?.steps).toHaveLength(2);
    selection.choose("c1");
    selection.range = { from: 60000, to: 70000 };
    run("cut", editor);
    expect(lanes(state.document, "t2").slice(0, 2)).toEqual(["Clip 1 50000+10000", "Clip 1 70000+28000"]);
  });

  it("is taken away with its gap closed: what comes later on its tracks moves up", () => {
    const { editor, state, selection } = editorOn("c0");
    run("removeClosing", editor);
    expect(lanes(state.document, "t1")).toEqual(["Clip 3 102000+48000"]);
    expect(lanes(state.document, "t2")).toEqual(["Clip 1 50000+48000", "Clip 4 200000+48000"]);
    selection.choose("c1");
    selection.range = { from: 60000, to: 70000 };
    run("removeClosing", editor);
    expect(lanes(state.document, "t2").map((text) => text.split(" ").slice(2).join())).toEqual([
      "50000+10120",
      "59880+28120",
      "190000+48000"
    ]);
    expect(state.labels.at(-1)).toBe("take out the range and close the gap");
  });

  it("is muted over a range by cutting it out, as one edit", () => {
    const { editor, state, selection } = editorOn("c4");
    selection.range = { from: 210000, to: 220000 };
    run("mute", editor);
    expect(state.labels).toEqual(["mute the range"]);
    const muted = [...state.document.values("clips")].filter((clip) => clip.muted);
    expect(muted.map((clip) => [clip.start, clip.length])).toEqual([[209880, 10240]]);
  });

  it("is repeated, nudged, slipped", () => {
    const { editor, state, selection } = editorOn("c2");
    editor.session.run({ type: "clip.remove", clipIds: ["c5"] });
    run("nudgeRight", editor);
    expect(state.document.get("clips", "c2")?.start).toBe(100480);
    run("slipLeft", editor);
    expect(state.document.get("clips", "c2")?.offset).toBe(2480);
    run("duplicate", editor);
    expect(lanes(state.document, "t3")).toEqual(["Clip 2 100480+48000", "Clip 2 148480+48000"]);
    expect(selection.clipIds).toHaveLength(1);
  });

  it("is faded to the playhead, and to a range over several tracks", () => {
    const { editor, state, selection } = editorOn("c1", 60000);
    run("fadeInHere", editor);
    expect(state.document.get("clips", "c1")?.fadeIn).toEqual({ length: 10000, shape: { curve: "smooth" } });
    selection.chooseAll(["c1", "c2", "c0"]);
    selection.range = { from: 90000, to: 110000 };
    run("fadeRange", editor);
    const fadesOf = (id: string) => {
      const clip = state.document.get("clips", id);
      return [clip?.fadeIn.length, clip?.fadeOut.length];
    };
    // Over the end of clip 1, over the start of clip 2, beside clip 0.
    expect([fadesOf("c0"), fadesOf("c1"), fadesOf("c2")]).toEqual([
      [0, 0],
      [10000, 8000],
      [10000, 0]
    ]);
    selection.choose("c2");
    selection.range = { from: 120000, to: 130000 };
    run("fadeRange", editor);
    expect(fadesOf("c2")).toEqual([20000, 18000]);
    run("fadesNone", editor);
    expect(fadesOf("c2")).toEqual([0, 0]);
  });
});

describe("menus", () => {
  /** Actions that are reached elsewhere: by the transport, the header, the bench. */
  const ELSEWHERE =
    /^(play|start|end|loop|listen|equal|undo|redo|export|shortcuts|actions|mixChain|link|unlink|trackSolo)$/;

  it("have every action that is about the timeline, and no other than there are", () => {
    const offered = new Set<string>(
      Object.values(MENUS)
        .flat()
        .filter((id) => id !== "")
    );
    const ids = new Set(actions.map((action) => action.id));
    expect([...offered].filter((id) => !ids.has(id))).toEqual([]);
    expect([...ids].filter((id) => !offered.has(id) && !ELSEWHERE.test(id))).toEqual([]);
  });

  it("and keys are each used once", () => {
    const keys = actions.flatMap((action) => action.keys ?? []);
    expect(keys.filter((key, i) => keys.indexOf(key) !== i)).toEqual([]);
  });
});
