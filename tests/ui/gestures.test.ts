// What lies under the pointer, and what pulling it asks for.
import { describe, expect, it } from "vitest";
import { applyCommand } from "../../src/lib/core/session/commands";
import { ClipIndex } from "../../src/lib/ui/state/clipIndex.svelte";
import { moveCommand, movingOf } from "../../src/lib/ui/state/moving";
import { TimelineView } from "../../src/lib/ui/state/view.svelte";
import { shapeCommand } from "../../src/lib/ui/state/shaping";
import { spotAt } from "../../src/lib/ui/edit/timeline/gestures/spot";
import { LaneStack } from "../../src/lib/ui/edit/timeline/layout";
import { tracksInOrder } from "../../src/lib/core/session/lookup";
import { smallProject } from "../support/randomCommands";

const doc = smallProject();
const clipOf = (id: string) => {
  const clip = doc.get("clips", id);
  if (!clip) throw new Error(id);
  return clip;
};

describe("what lies under the pointer", () => {
  const view = new TimelineView();
  view.framesPerPixel = 480;
  const index = new ClipIndex(doc);
  const LANE = 56;
  const lanes = new LaneStack([LANE, 72, 140]);
  const spot = (x: number, y: number) => {
    const { lane, clip, zone } = spotAt({ x, y }, tracksInOrder(doc), lanes, index, view);
    return [lane, clip?.id, zone];
  };

  it("is a clip's body, an edge, a grip of a fade, or a lane", () => {
    // Clip 0 lies on the first lane from 0 to 100 pixels, without fades.
    expect(spot(50, 30)).toEqual([0, "c0", "body"]);
    expect(spot(2, 30)).toEqual([0, "c0", "left"]);
    expect(spot(97, 30)).toEqual([0, "c0", "right"]);
    expect(spot(2, 5)).toEqual([0, "c0", "fadeIn"]);
    expect(spot(95, 5)).toEqual([0, "c0", "fadeOut"]);
    expect(spot(50, 5)).toEqual([0, "c0", "body"]);
    expect(spot(150, 30)).toEqual([0, undefined, undefined]);
    expect(spot(150, LANE + 30)).toEqual([1, "c1", "body"]);
    expect(spot(50, 10 * LANE)).toEqual([3, undefined, undefined]);
    expect(spot(250, LANE + 72 + 139)).toEqual([2, "c2", "body"]);
  });

  it("finds the grips of fades at the edges of the view when their ends are out of sight", () => {
    view.left = 10000;
    view.framesPerPixel = 10;
    expect(spot(5, 5)).toEqual([0, "c0", "fadeIn"]);
    expect(spot(view.width - 5, 5)).toEqual([0, "c0", "fadeOut"]);
    expect(spot(500, 5)).toEqual([0, "c0", "body"]);
    view.left = 0;
    view.framesPerPixel = 480;
  });

  it("is told what changes, and only of its own track", () => {
    const moved = applyCommand(doc, { type: "clip.move", clipId: "c0", trackId: "t2", start: 0 }).document;
    index.show(moved);
    expect(spot(50, 30)).toEqual([0, undefined, undefined]);
    expect(spot(50, LANE + 30)).toEqual([1, "c0", "body"]);
    index.show(doc);
    expect(spot(50, 30)).toEqual([0, "c0", "body"]);
  });
});

describe("moving", () => {
  const places = (ids: string[], by: number, lanes: number) => {
    const command = moveCommand(movingOf(doc, ids), { frames: by, lanes }, "crossfade", "seed");
    if (!command) return null;
    const next = applyCommand(doc, command).document;
    return ids.map((id) => [next.get("clips", id)?.track, next.get("clips", id)?.start]);
  };

  it("keeps clips together: none goes before the start, above the first track or below the last", () => {
    expect(places(["c1"], 500, 0)).toEqual([["t2", 50500]]);
    expect(places(["c1", "c2"], -60000, 0)).toEqual([
      ["t2", 0],
      ["t3", 50000]
    ]);
    expect(places(["c0", "c1"], 0, 5)).toEqual([
      ["t2", 0],
      ["t3", 50000]
    ]);
    expect(places(["c1", "c2"], 0, -5)).toEqual([
      ["t1", 50000],
      ["t2", 100000]
    ]);
    expect(places(["c0"], -10, -1)).toBeNull();
    expect(places([], 10, 0)).toBeNull();
  });

  it("is one edit, that says how many", () => {
    const command = moveCommand(movingOf(doc, ["c0", "c1"]), { frames: 10, lanes: 0 }, "stayClear", "seed");
    if (!command) throw new Error("Nothing moves.");
    expect(applyCommand(doc, command)).toMatchObject({ label: "move 2 clips" });
  });
});

const ground = { framesOf: () => 480000, seed: "seed" };

describe("pulling an edge", () => {
  const shaped = (edge: Parameters<typeof shapeCommand>[1], by: number) =>
    shapeCommand(clipOf("c2"), edge, by, ground);

  it("trims as far as the recording has sound, and leaves at least one frame", () => {
    expect(shaped("left", 1000)).toMatchObject({ start: 101000, offset: 3000, length: 47000 });
    expect(shaped("left", -9000)).toMatchObject({ start: 98000, offset: 0, length: 50000 });
    expect(shaped("left", 90000)).toMatchObject({ length: 1 });
    expect(shaped("right", -90000)).toMatchObject({ length: 1 });
    expect(shaped("right", 900000)).toMatchObject({ start: 100000, length: 478000 });
  });

  it("pulls a fade no further than the other one", () => {
    const faded = { ...clipOf("c2"), fadeOut: { length: 40000, shape: { curve: "smooth" as const } } };
    expect(shapeCommand(faded, "fadeIn", 30000, ground)).toMatchObject({
      edge: "in",
      fade: { length: 8000 }
    });
    expect(shapeCommand(faded, "fadeOut", 10000, ground)).toMatchObject({
      edge: "out",
      fade: { length: 30000 }
    });
    expect(shapeCommand(faded, "fadeOut", 90000, ground)).toMatchObject({ fade: { length: 0 } });
  });
});
