import { describe, expect, it } from "vitest";
import { actions, keyText } from "../../src/lib/ui/state/actions";
import { TimelineView } from "../../src/lib/ui/state/view.svelte";

describe("timeline view", () => {
  it("zooms around a point that stays where it is, down to sixteen pixels a sample", () => {
    const view = new TimelineView();
    view.width = 800;
    view.show(0, 480000);
    const frame = view.frameAt(300);
    for (let i = 0; i < 30; i++) view.zoom(2, 300);
    expect(Math.abs(view.x(frame) - 300)).toBeLessThan(1);
    expect(view.framesPerPixel).toBe(1 / 16);
    for (let i = 0; i < 60; i++) view.zoom(0.5);
    expect(view.left).toBeGreaterThanOrEqual(0);
    expect(view.framesPerPixel).toBe(2 ** 20);
  });

  it("shows a range with a little room, and turns the page when the playhead leaves", () => {
    const view = new TimelineView();
    view.width = 1000;
    view.show(100000, 200000);
    expect(view.x(100000)).toBeGreaterThan(0);
    expect(view.x(200000)).toBeLessThan(1000);
    const { left } = view;
    view.follow(150000);
    expect(view.left).toBe(left);
    view.follow(900000);
    expect(view.x(900000)).toBeCloseTo(50, 0);
    view.scroll(-1e9);
    expect(view.left).toBe(0);
    view.reveal(50000, 60000);
    expect(view.left).toBe(0);
    view.reveal(900000, 910000);
    expect(view.x(900000)).toBeCloseTo(50, 0);
  });

  it("draws waveforms no lower than they are and at most by 60 dB taller", () => {
    const view = new TimelineView();
    view.taller(0.5);
    expect(view.height).toBe(1);
    for (let i = 0; i < 20; i++) view.taller(2);
    expect(view.height).toBe(1024);
  });
});

describe("actions", () => {
  it("have names, ids and keys of their own, and keys that can be read", () => {
    const of = (key: "id" | "name" | "keys") => actions.map((a) => a[key]).filter((x) => x !== undefined);
    for (const key of ["id", "name", "keys"] as const) expect(new Set(of(key)).size).toBe(of(key).length);
    for (const { keys } of actions) if (keys) expect(keyText(keys)).not.toContain("$mod");
    expect(keyText("$mod+z")).toMatch(/Z$/);
  });
});
