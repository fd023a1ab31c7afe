import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { applyCommand, applyStored, commandSchema, type Command } from "../../src/lib/core/session/apply";
import { CommandRefused } from "../../src/lib/core/session/commands/command";
import { newClip, programmeEnd } from "../../src/lib/core/session/document";
import { documentSchema, type Document } from "../../src/lib/core/session/schema";
import { clipOf, documentWith } from "./signals";

const doc = documentWith(
  clipOf("a", 48000, { steps: [{ id: "g", effect: "gain", on: true, params: { gainDb: 3 } }] }),
  clipOf("b", 24000, { start: 96000 })
);
const run = (d: Document, ...commands: Command[]) =>
  commands.reduce((now, c) => applyCommand(now, c).document, d);

describe("commands", () => {
  it("add, move, trim and split clips", () => {
    const clip = newClip("new", { ...doc.recordings[0] }, 200000);
    const after = run(
      doc,
      { type: "track.add", trackId: "t2", name: "Second" },
      { type: "clip.add", trackId: "t2", clip },
      { type: "clip.move", clipId: "clip-a", trackId: "t2", start: 1000 },
      { type: "clip.trim", clipId: "clip-a", start: 2000, offset: 1000, length: 20000 },
      { type: "clip.split", clipId: "clip-a", at: 12000, newId: "right", stepIds: ["g2"] }
    );
    expect(after.tracks[1].clips.map((c) => [c.id, c.start, c.offset, c.length])).toEqual([
      ["new", 200000, 0, 480000],
      ["clip-a", 2000, 1000, 10000],
      ["right", 12000, 11000, 10000]
    ]);
    expect(programmeEnd(after)).toBe(680000);
    expect(documentSchema.safeParse(after).success).toBe(true);
  });

  it("keep fades inside their clip and off each other", () => {
    const after = run(
      doc,
      { type: "clip.fade", clipIds: ["clip-b"], edge: "in", fade: { length: 20000, curve: "straight" } },
      { type: "clip.fade", clipIds: ["clip-b"], edge: "out", fade: { length: 90000, curve: "sShaped" } }
    );
    expect(after.tracks[0].clips[1]).toMatchObject({ fadeIn: { length: 0 }, fadeOut: { length: 24000 } });
  });

  it("keep a recording that is used as a clip or as an impulse response, naming who uses it", () => {
    const room = { ...doc.recordings[0], id: "room", name: "Room" };
    const with_ = { ...doc, recordings: [...doc.recordings, room] };
    const used = run(with_, {
      type: "step.add",
      clipId: "clip-b",
      step: { id: "c", effect: "convolution", on: true, params: { impulse: "room" } },
      index: 0
    });
    expect(() => run(used, { type: "recording.remove", recordingId: "room" })).toThrow(
      '"Room" is used by "b".'
    );
    expect(run(with_, { type: "recording.remove", recordingId: "room" }).recordings).toHaveLength(
      doc.recordings.length
    );
  });

  it.each([
    ["clip.remove", { type: "clip.remove", clipIds: ["gone"] }, "no longer there"],
    [
      "clip.trim",
      { type: "clip.trim", clipId: "clip-a", start: 0, offset: 0, length: 10 ** 9 },
      "beyond the end of its recording"
    ],
    ["clip.split", { type: "clip.split", clipId: "clip-a", at: 0, newId: "x", stepIds: ["y"] }, "outside"],
    ["clip.restore", { type: "clip.restore", clipIds: ["clip-a"] }, "not rendered"],
    [
      "step.set",
      { type: "step.set", clipId: "clip-a", stepId: "g", params: { gainDb: 500 } },
      "between -60 and 48 dB"
    ],
    ["recording.remove", { type: "recording.remove", recordingId: "a" }, 'used by "a"']
  ] as [string, Command, string][])(
    "%s refuses what cannot be, with a reason, and changes nothing",
    (_, command, reason) => {
      const before = JSON.stringify(doc);
      expect(() => applyCommand(doc, command)).toThrow(CommandRefused);
      expect(() => applyCommand(doc, command)).toThrow(reason);
      expect(JSON.stringify(doc)).toBe(before);
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
    expect(doc.tracks[0].clips[0].gainDb).toBe(0);
  });

  it("name what undo will undo", () => {
    const label = (c: Command) => applyCommand(doc, c).label;
    expect(label({ type: "clip.trim", clipId: "clip-a", start: 0, offset: 0, length: 5 })).toBe("trim a");
    expect(label({ type: "step.set", clipId: "clip-a", stepId: "g", params: { gainDb: 4 } })).toBe(
      "Gain: gain"
    );
    expect(label({ type: "clip.remove", clipIds: ["clip-a", "clip-b"] })).toBe("remove 2 clips");
  });

  it("refuse what is not a command", () => {
    expect(commandSchema.safeParse({ type: "format.disk" }).success).toBe(false);
    expect(commandSchema.safeParse({ type: "clip.set", clipIds: ["a"], gainDb: "loud" }).success).toBe(false);
    expect(
      commandSchema.safeParse({
        type: "step.add",
        clipId: "a",
        index: 0,
        step: { id: "s", effect: "magic", on: true, params: {} }
      }).success
    ).toBe(false);
  });

  it("undo and redo give back the very document, for any sequence of commands", () => {
    const frame = fc.integer({ min: 0, max: 60000 });
    const clipId = fc.constantFrom("clip-a", "clip-b");
    const command: fc.Arbitrary<Command> = fc.oneof(
      fc.record({
        type: fc.constant("clip.move" as const),
        clipId,
        trackId: fc.constant("track-1"),
        start: frame
      }),
      fc.record({
        type: fc.constant("clip.trim" as const),
        clipId,
        start: frame,
        offset: frame,
        length: frame.map((f) => f + 1)
      }),
      fc.record({
        type: fc.constant("clip.set" as const),
        clipIds: fc.tuple(clipId),
        gainDb: fc.integer({ min: -40, max: 40 })
      }),
      fc.record({
        type: fc.constant("clip.fade" as const),
        clipIds: fc.tuple(clipId),
        edge: fc.constantFrom("in" as const, "out" as const),
        fade: fc.record({ length: frame, curve: fc.constantFrom("straight" as const, "sShaped" as const) })
      }),
      fc.record({
        type: fc.constant("step.add" as const),
        clipId,
        index: fc.nat(3),
        step: fc.record({
          id: fc.uuid(),
          effect: fc.constant("gain"),
          on: fc.boolean(),
          params: fc.constant({ gainDb: 1 })
        })
      }),
      fc.record({
        type: fc.constant("chain.replace" as const),
        clipId,
        steps: fc.constant<never[]>([]).map((list) => [...list]),
        source: fc.constant("x")
      }),
      fc.record({ type: fc.constant("clip.remove" as const), clipIds: fc.tuple(clipId) })
    );
    fc.assert(
      fc.property(fc.array(command, { maxLength: 12 }), (commands) => {
        const states = [doc];
        const history = [];
        for (const c of commands) {
          try {
            const applied = applyCommand(states[states.length - 1], c);
            history.push(JSON.parse(JSON.stringify(applied)) as typeof applied);
            states.push(applied.document);
          } catch (error) {
            if (!(error instanceof CommandRefused)) throw error;
          }
        }
        let now = states[states.length - 1];
        expect(documentSchema.safeParse(now).success).toBe(true);
        for (let i = history.length - 1; i >= 0; i--) {
          now = applyStored(now, history[i].inverse);
          expect(now).toEqual(states[i]);
        }
        for (let i = 0; i < history.length; i++) {
          now = applyStored(now, history[i].patches);
          expect(now).toEqual(states[i + 1]);
        }
      }),
      { numRuns: 60 }
    );
  });
});
