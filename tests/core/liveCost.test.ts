// What treatment costs while it plays, and which clips are rendered for that.
import { describe, expect, it } from "vitest";
import { Plan } from "../../src/lib/core/render/graph";
import { busiest, dearest, liveClips, liveShare, type ClipCost } from "../../src/lib/core/render/liveCost";
import { partOf } from "../../src/lib/core/render/soundPart";
import { applyCommand } from "../../src/lib/core/session/commands";
import { resolveClip } from "../../src/lib/core/session/lookup";
import { newStep } from "../../src/lib/core/session/make";
import type { Step } from "../../src/lib/core/session/schema";
import { kernels } from "../../src/lib/core/kernels/instance";
import { project } from "./owned";
import { RATE } from "./signals";

function partWith(steps: readonly Step[], recording: readonly Step[] = []) {
  const doc = project({ clip: steps, recording });
  const clip = doc.get("clips", "k");
  if (!clip) throw new Error("no clip");
  return partOf(resolveClip(doc, clip));
}

const cost = (id: string, from: number, to: number, share: number): ClipCost => ({ id, from, to, share });

describe("cost of live treatment", () => {
  it("is the quickest piece's time as a share of the sound's, by whatever clock", () => {
    // Each look at the clock is 10 ms later: a piece of 48 blocks of 512 frames is 512 ms of sound.
    let now = 0;
    const share = liveShare(partWith([newStep("g", "gain")]), RATE, () => (now += 10));
    expect(share).toBeCloseTo(0.01 / ((48 * 512) / RATE), 6);
  });

  it("tells dear steps from cheap ones, those that need their whole clip and those of the recording included", () => {
    // Whatever else the machine does makes a look longer, never shorter: the least of several.
    const least = (part: ReturnType<typeof partWith>) =>
      Math.min(...Array.from({ length: 7 }, () => liveShare(part, RATE, () => performance.now())));
    const gain = least(partWith([newStep("g", "gain")]));
    expect(least(partWith([newStep("r", "reverb"), newStep("l", "limiter")]))).toBeGreaterThan(2 * gain);
    expect(least(partWith([], [newStep("r", "reverb"), newStep("n", "normalize")]))).toBeGreaterThan(
      2 * gain
    );
    expect(least(partWith([newStep("c", "convolution", { impulse: "b" })]))).toBeGreaterThan(0);
  });

  it("leaves no memory behind", () => {
    const once = () => liveShare(partWith([newStep("r", "reverb")]), RATE, () => performance.now());
    once();
    const before = kernels.memory.buffer.byteLength;
    for (let i = 0; i < 40; i++) once();
    expect(kernels.memory.buffer.byteLength).toBe(before);
  });

  it("counts what sounds and is computed live alone; the same steps are one recipe", () => {
    const doc = project({ clip: [newStep("g", "gain")] });
    expect(liveClips(new Plan(doc)).map(({ clip }) => clip.id)).toEqual(["k"]);
    const changed = (command: Parameters<typeof applyCommand>[1]) =>
      liveClips(new Plan(applyCommand(doc, command).document));
    expect(changed({ type: "clip.set", clipIds: ["k"], muted: true })).toEqual([]);
    expect(changed({ type: "track.set", trackId: "t", muted: true })).toEqual([]);
    expect(changed({ type: "track.set", trackId: "u", solo: true })).toEqual([]);
    expect(liveClips(new Plan(project({ clip: [{ ...newStep("g", "gain"), on: false }] })))).toEqual([]);
    expect(liveClips(new Plan(project({ recording: [newStep("g", "gain")] })))).toHaveLength(1);
    expect(liveClips(new Plan(project({ clip: [newStep("h", "gain")] })))[0].recipe).toBe(
      liveClips(new Plan(doc))[0].recipe
    );
  });
});

describe("the dearest clips", () => {
  const costs = [
    cost("a", 0, 100, 0.2),
    cost("b", 50, 150, 0.3),
    cost("c", 60, 70, 0.05),
    cost("d", 200, 300, 0.1)
  ];

  it("are looked for where most is taken at once", () => {
    expect(busiest(costs).at).toBe(60);
    expect(busiest(costs).share).toBeCloseTo(0.55, 12);
    // One that ends where the next begins does not count with it.
    expect(busiest([cost("a", 0, 10, 0.4), cost("b", 10, 20, 0.4)])).toEqual({ share: 0.4, at: 0 });
    expect(busiest([])).toEqual({ share: 0, at: 0 });
  });

  it("are as few as bring every place under the share; at least one", () => {
    expect([...dearest(costs, 0.25)]).toEqual(["b"]);
    expect([...dearest(costs, 0.22)].sort()).toEqual(["a", "b"]);
    expect([...dearest(costs, 0.9)]).toEqual(["b"]);
    expect([...dearest(costs, 0)].sort()).toEqual(["a", "b", "c", "d"]);
    expect([...dearest([], 0.2)]).toEqual([]);
  });

  it("never leave more than the share, whatever the clips (1,000 made up)", () => {
    let seed = 7;
    const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
    const many = Array.from({ length: 1000 }, (_, i) => {
      const from = Math.floor(random() * 100000);
      return cost(`k${i}`, from, from + 1 + Math.floor(random() * 3000), random() * 0.2);
    });
    const chosen = dearest(many, 0.3);
    expect(busiest(many.filter(({ id }) => !chosen.has(id))).share).toBeLessThanOrEqual(0.3 + 1e-9);
    expect(chosen.size).toBeLessThan(1000);
  });
});
