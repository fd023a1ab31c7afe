// Files that are chosen, in the order and the folders in which they are taken.
import { describe, expect, it } from "vitest";
import { chosenFiles } from "../../src/lib/ui/shared/givenFiles";

/** A file as a file field gives it; `path` is empty where it was not chosen with its folder. */
function chosen(name: string, path = "", type = ""): File {
  return Object.defineProperty(new File(["x"], name, { type }), "webkitRelativePath", {
    value: path === "" ? "" : `${path}/${name}`
  });
}

const taken = (files: readonly File[]) => {
  const { files: given, leftOut } = chosenFiles(files);
  return { given: given.map(({ file, folder }) => `${folder}: ${file.name}`), leftOut };
};

describe("files that are chosen", () => {
  it("with their folder come by folder and name, as people order them", () => {
    const files = [
      chosen("Take 10.wav", "Day 2"),
      chosen("Take 9.wav", "Day 2"),
      chosen("Room.flac", "Day 10"),
      chosen("Door.mp3", "Day 2/Foley")
    ];
    expect(taken(files)).toEqual({
      given: ["Day 2: Take 9.wav", "Day 2: Take 10.wav", "Day 2/Foley: Door.mp3", "Day 10: Room.flac"],
      leftOut: 0
    });
  });

  it("with their folder are left out where they hold no sound; by themselves they were meant", () => {
    const files = [
      chosen(".hidden.wav", "Day 1"),
      chosen("Notes.txt", "Day 1"),
      chosen("Scene", "Day 1", "video/mp4"),
      chosen("Camera.MXF", "Day 1"),
      chosen("Old.take.voc", "Day 1"),
      chosen("Letter.txt")
    ];
    const given = [": Letter.txt", "Day 1: Camera.MXF", "Day 1: Old.take.voc", "Day 1: Scene"];
    expect(taken(files)).toEqual({ given, leftOut: 2 });
  });
});
