import { describe, expect, it } from "vitest";
import { applyCommand, commandSchema, type Command } from "../../src/lib/core/session/commands";
import { Document } from "../../src/lib/core/session/document";
import { TimelineIndex } from "../../src/lib/core/session/timelineIndex";
import { findClip, programmeEnd } from "../../src/lib/core/session/lookup";
import { newChain, newClip, newRecording, newStep, newTrack } from "../../src/lib/core/session/make";
import { CommandRefused } from "../../src/lib/core/session/refused";
import { documentFault } from "../../src/lib/core/session/validate";
import { clipOf, documentWith, fade } from "./signals";

const doc = documentWith(
  clipOf("a", 48000, { steps: [{ id: "g", effect: "gain", params: { gainDb: 3 } }] }),
  clipOf("b", 24000, { start: 96000 })
);
const run = (d: Document, ...commands: Command[]) =>
  commands.reduce((now, c) => applyCommand(now, c).document, d);
const ownerA = { table: "clips" as const, id: "clip-a" };
const ownerB = { table: "clips" as const, id: "clip-b" };
const room = newRecording("room", {
  name: "Room",
  media: null,
  frames: 9600,
  channels: 2,
  sampleRate: 48000,
  kind: "import"
});

describe("commands", () => {
  it("add, move, trim and split clips", () => {
    const recording = doc.get("recordings", "a") ?? room;
    const after = run(
      doc,
      { type: "track.add", track: newTrack("t2", "Second", 2) },
      { type: "clip.add", clip: newClip("new", "t2", recording, 200000), chain: null },
      { type: "clip.move", clipId: "clip-a", trackId: "t2", start: 1000 },
      { type: "clip.trim", clipId: "clip-a", start: 2000, offset: 1000, length: 20000 },
      { type: "clip.split", clipId: "clip-a", at: 12000, newId: "right", chainId: "k", stepIds: ["g2"] }
    );
    const lane = new TimelineIndex(after.values("clips")).overlapping("t2", 0, Infinity);
    expect(lane.map((c) => [c.id, c.start, c.offset, c.length])).toEqual([
      ["clip-a", 2000, 1000, 10000],
      ["right", 12000, 11000, 10000],
      ["new", 200000, 0, 480000]
    ]);
    expect(findClip(after, "right")?.clip.steps).toEqual([newStep("g2", "gain", { gainDb: 3 })]);
    expect(programmeEnd(after)).toBe(680000);
    expect(documentFault(after)).toBeUndefined();
  });

  it("keep fades inside their clip and off each other", () => {
    const after = run(
      doc,
      { type: "clip.fade", clipIds: ["clip-b"], edge: "in", fade: fade(20000, "straight") },
      { type: "clip.fade", clipIds: ["clip-b"], edge: "out", fade: fade(90000, "sShaped") }
    );
    expect(after.get("clips", "clip-b")).toMatchObject({ fadeIn: { length: 0 }, fadeOut: { length: 24000 } });
  });

  it("give a clip a chain with its first step, and take both away with the last", () => {
    const step = newStep("one", "gain");
    const added = run(doc, { type: "step.add", owner: ownerB, chainId: "fresh", step, before: null });
    expect(added.get("clips", "clip-b")?.chain).toBe("fresh");
    expect(added.get("chains", "fresh")?.steps).toEqual([step]);
    const removed = run(added, { type: "step.remove", owner: ownerB, stepId: "one" });
    expect(removed.get("clips", "clip-b")?.chain).toBeNull();
    expect(removed.get("chains", "fresh")).toBeUndefined();
  });

  it("put a step before another, whatever its place", () => {
    const more = run(
      doc,
      { type: "step.add", owner: ownerA, chainId: "x", step: newStep("h", "limiter"), before: null },
      { type: "step.add", owner: ownerA, chainId: "x", step: newStep("f", "tone"), before: "g" },
      { type: "step.move", owner: ownerA, stepId: "h", before: "g" }
    );
    expect(findClip(more, "clip-a")?.clip.steps.map((s) => s.id)).toEqual(["f", "h", "g"]);
  });

  it("remove a clip with its chain, but not with one that another clip has as well", () => {
    const linked = doc.with([
      {
        table: "clips",
        id: "clip-b",
        before: doc.get("clips", "clip-b") ?? null,
        after: {
          ...newClip("clip-b", "track-1", room, 0),
          content: { kind: "audio", recordingId: "b" },
          chain: "chain-clip-a"
        }
      }
    ]);
    const once = run(linked, { type: "clip.remove", clipIds: ["clip-a"] });
    expect(once.get("chains", "chain-clip-a")).toBeDefined();
    expect(run(once, { type: "clip.remove", clipIds: ["clip-b"] }).size("chains")).toBe(0);
  });

  it("keep a recording that is used as a clip or as an impulse response, naming who uses it", () => {
    const with_ = run(doc, { type: "recording.add", recording: room });
    const used = run(with_, {
      type: "step.add",
      owner: ownerB,
      chainId: "k",
      step: newStep("c", "convolution", { impulse: "room" }),
      before: null
    });
    expect(() => run(used, { type: "recording.remove", recordingId: "room" })).toThrow(
      '"Room" is used by "b".'
    );
    expect(run(with_, { type: "recording.remove", recordingId: "room" }).size("recordings")).toBe(2);
  });

  it("remove a track with all of its clips and their chains", () => {
    const after = run(doc, { type: "track.remove", trackId: "track-1" });
    expect([after.size("tracks"), after.size("clips"), after.size("chains")]).toEqual([0, 0, 0]);
    expect(after.size("recordings")).toBe(2);
  });

  it.each([
    ["clip.remove", { type: "clip.remove", clipIds: ["gone"] }, "no longer there"],
    [
      "clip.trim",
      { type: "clip.trim", clipId: "clip-a", start: 0, offset: 0, length: 10 ** 9 },
      "beyond the end of its recording"
    ],
    [
      "clip.split",
      { type: "clip.split", clipId: "clip-a", at: 0, newId: "x", chainId: "k", stepIds: ["y"] },
      "outside"
    ],
    ["clip.restore", { type: "clip.restore", clipIds: ["clip-a"] }, "not rendered"],
    [
      "step.set",
      { type: "step.set", owner: ownerA, stepId: "g", params: { gainDb: 500 } },
      "between -60 and 48 dB"
    ],
    ["recording.remove", { type: "recording.remove", recordingId: "a" }, 'used by "a"'],
    [
      "clip.add with a chain that it does not name",
      {
        type: "clip.add",
        clip: newClip("x", "track-1", { ...room, id: "a" }, 0),
        chain: newChain("k")
      },
      "another chain"
    ],
    [
      "a step that asks for a recording that is not there",
      {
        type: "step.add",
        owner: ownerA,
        chainId: "k",
        step: newStep("c", "convolution", { impulse: "nowhere" }),
        before: null
      },
      "needs a recording that is not there"
    ]
  ] as [string, Command, string][])(
    "%s refuses what cannot be, with a reason, and changes nothing",
    (_, command, reason) => {
      const before = JSON.stringify(doc.toJson());
      expect(() => applyCommand(doc, command)).toThrow(CommandRefused);
      expect(() => applyCommand(doc, command)).toThrow(reason);
      expect(JSON.stringify(doc.toJson())).toBe(before);
    }
  );

  it("a compound is all or nothing", () => {
    const commands: Command = {
      type: "compound",
      name: "two things",
      commands: [
        { type: "clip.set", clipIds: ["clip-a"], gainDb: 2 },
        { type: "clip.remove", clipIds: ["gone"] }
      ]
    };
    expect(() => applyCommand(doc, commands)).toThrow("no longer there");
    expect(doc.get("clips", "clip-a")?.gainDb).toBe(0);
  });

  it("name what undo will undo", () => {
    const label = (c: Command) => applyCommand(doc, c).label;
    expect(label({ type: "clip.trim", clipId: "clip-a", start: 0, offset: 0, length: 5 })).toBe("trim a");
    expect(label({ type: "step.set", owner: ownerA, stepId: "g", params: { gainDb: 4 } })).toBe("Gain: gain");
    expect(label({ type: "clip.remove", clipIds: ["clip-a", "clip-b"] })).toBe("remove 2 clips");
  });

  it("refuse what is not a command", () => {
    const refused = [
      { type: "format.disk" },
      { type: "clip.set", clipIds: ["a"], gainDb: "loud" },
      {
        type: "step.add",
        owner: ownerA,
        chainId: "k",
        before: null,
        step: newStep("s", "gain", { gainDb: 99 })
      },
      { type: "step.remove", owner: { table: "sections", id: "track-1" }, stepId: "g" }
    ];
    for (const command of refused) expect(commandSchema.safeParse(command).success).toBe(false);
  });

  it("change nothing when nothing changes", () => {
    expect(applyCommand(doc, { type: "clip.set", clipIds: ["clip-a"], gainDb: 0 }).changes).toEqual([]);
  });
});

describe("the document", () => {
  it("keeps fields that it does not know, in every entity and beside its tables", () => {
    const json = doc.toJson();
    const strange = {
      ...json,
      returns: [{ id: "r", wet: 1 }],
      clips: json.clips.map((c) => ({ ...c, colour: "ochre", fadeIn: { ...c.fadeIn, bend: 0.3 } })),
      project: json.project.map((p) => ({ ...p, mix: { ...p.mix, width: 2 } }))
    };
    const after = run(Document.fromJson(strange), { type: "clip.set", clipIds: ["clip-a"], gainDb: -4 });
    const clips = strange.clips.map((c) => (c.id === "clip-a" ? { ...c, gainDb: -4 } : c));
    expect(after.toJson()).toEqual({ ...strange, clips });
  });

  it.each([
    ["a clip without its track", "clips", { track: "gone" }, "needs a track that is not there"],
    ["a clip of another form", "clips", { length: -5 }, "length"],
    ["a step out of its limits", "chains", { steps: [newStep("s", "gain", { gainDb: 99 })] }, "Gain"]
  ] as const)("says what is wrong with %s", (_, table, change, reason) => {
    const json = doc.toJson();
    const broken = {
      ...json,
      [table]: json[table].map((entity, i) => (i === 0 ? { ...entity, ...change } : entity))
    };
    expect(documentFault(Document.fromJson(broken))).toContain(reason);
  });
});
