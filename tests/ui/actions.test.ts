// Actions that make something new: what they ask the session for.
import { describe, expect, it } from "vitest";
import { applyCommand, type Command } from "../../src/lib/core/session/commands";
import { findClip } from "../../src/lib/core/session/lookup";
import { MIX, ownerName, stepsOfOwner } from "../../src/lib/core/session/owners";
import { newRecipeStep, newRecording } from "../../src/lib/core/session/make";
import { actions, keyText } from "../../src/lib/ui/state/actions";
import { applyPreset } from "../../src/lib/ui/state/editing";
import type { Editor } from "../../src/lib/ui/state/editor.svelte";
import { smallProject } from "../support/randomCommands";

/** An editor on a document, with a clip selected. */
function editorOn(clipId: string | null, position = 0) {
  const state = { document: smallProject(), labels: [] as string[] };
  const selection = {
    clipIds: clipId === null ? [] : [clipId],
    stepId: null as string | null,
    range: null as { from: number; to: number } | null,
    get found() {
      return clipId === null ? undefined : findClip(state.document, clipId);
    },
    get clip() {
      return this.found?.clip;
    },
    get subject() {
      const { clip } = this;
      const owner = clip ? { table: "clips" as const, id: clip.id } : MIX;
      const doc = state.document;
      return { owner, name: ownerName(doc, owner), steps: stepsOfOwner(doc, owner), clip };
    },
    choose(id: string) {
      this.clipIds = [id];
    },
    clear() {
      this.clipIds = [];
    }
  };
  const session = {
    get document() {
      return state.document;
    },
    run(command: Command) {
      const applied = applyCommand(state.document, command);
      state.document = applied.document;
      state.labels.push(applied.label);
      return true;
    }
  };
  const editor = { session, selection, transport: { position }, sampleRate: 48000 } as unknown as Editor;
  return { editor, state, selection };
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
  it("split at the playhead: both parts have the chain, each its own", () => {
    const { editor, state } = editorOn("c1", 70000);
    run("split", editor);
    const parts = [...state.document.values("clips")].filter((c) => c.name === "Clip 1");
    expect(parts.map((c) => c.length).sort((a, b) => a - b)).toEqual([20000, 28000]);
    expect(new Set(parts.map((c) => c.chain)).size).toBe(2);
    expect(parts.every((c) => findClip(state.document, c.id)?.clip.steps.length === 2)).toBe(true);
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
    expect([...state.document.values("tracks")].find((t) => t.name === "Track 4")?.order).toBe(4);
    run("clearChain", editor);
    expect(state.document.get("clips", "c1")?.chain).toBeNull();
  });

  it("have keys that can be read", () => {
    expect(keyText("$mod+Shift+z")).toBe("Ctrl Shift Z");
    expect(keyText("+")).toBe("+");
    expect(new Set(actions.map((a) => a.id)).size).toBe(actions.length);
  });
});
