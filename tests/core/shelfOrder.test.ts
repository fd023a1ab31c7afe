// The shelf: what is found, in which folders, and in which order.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { documentOf, newClip, newProject, newRecording, newTrack } from "../../src/lib/core/session/make";
import type { Recording } from "../../src/lib/core/session/schema";
import { shelfFolders, type ShelfFolder, type ShelfWish } from "../../src/lib/core/session/shelfOrder";

const ALL: ShelfWish = { words: "", order: "name", filter: "all" };

function recording(id: string, name: string, change: Partial<Recording> = {}): Recording {
  const facts = { name, media: id, frames: 48000, channels: 1, sampleRate: 48000, kind: "import" } as const;
  return { ...newRecording(id, facts), ...change };
}

function shelf(
  recordings: readonly Recording[],
  wish: Partial<ShelfWish> = {},
  used: readonly Recording[] = []
) {
  const project = newProject("Shelf", 48000);
  const clips = used.map((one, i) => newClip(`clip-${i}`, "t", one, i * 48000));
  const doc = documentOf(project, { tracks: [newTrack("t", "One", 0)], recordings, clips });
  return (before?: readonly ShelfFolder[]) => shelfFolders(doc, { ...ALL, ...wish }, before);
}

/** Names by folder. */
const told = (folders: readonly ShelfFolder[]) =>
  folders.map(({ path, recordings }) => [path, ...recordings.map(({ name }) => name)]);

describe("the shelf", () => {
  const lamp = recording("a", "Take 10", { frames: 96000, labels: ["lamp"] });
  const rain = recording("b", "Take 2", { sampleRate: 96000, folder: "Day 1" });
  const quay = recording("c", "take 1", { frames: 24000, kind: "render" });
  const gone = recording("d", "Take 3", { binned: 1 });
  const all = [lamp, rain, quay, gone];

  it("orders names as people do, folder by folder, the top first; what is in the bin is not there", () => {
    expect(told(shelf(all)())).toEqual([
      ["", "take 1", "Take 10"],
      ["Day 1", "Take 2"]
    ]);
  });

  it("orders by length, the longest first", () => {
    expect(told(shelf([quay, lamp], { order: "length" })())).toEqual([["", "Take 10", "take 1"]]);
  });

  it.each([
    ["lamp", "all", [["", "Take 10"]]],
    ["day take", "all", [["Day 1", "Take 2"]]],
    ["", "rendered", [["", "take 1"]]],
    ["", "used", [["Day 1", "Take 2"]]],
    ["", "unused", [["", "take 1", "Take 10"]]],
    ["nothing", "all", []]
  ] as const)("finds %j among %s", (words, filter, found) => {
    expect(told(shelf(all, { words, filter }, [rain])())).toEqual(found);
  });

  it("is in the same order whatever it was before: more, fewer, renamed, moved", () => {
    const some = fc.uniqueArray(
      fc.record({
        id: fc.integer({ min: 0, max: 40 }),
        name: fc.integer({ min: 0, max: 9 }),
        folder: fc.constantFrom("", "A", "B")
      }),
      { selector: ({ id }) => id, maxLength: 30 }
    );
    const made = (facts: readonly { id: number; name: number; folder: string }[]) =>
      shelf(
        facts.map(({ id, name, folder }) =>
          recording(`r${id}`, `Take ${name}`, folder === "" ? {} : { folder })
        )
      );
    fc.assert(
      fc.property(some, some, (first, then) => {
        expect(made(then)(made(first)())).toEqual(made(then)());
      })
    );
  });
});
