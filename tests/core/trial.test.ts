// A chain heard on one sound before it is applied: that sound alone, and nothing of the project changes.
import { describe, expect, it } from "vitest";
import { equalGains } from "../../src/lib/core/render/compare";
import { trialOf } from "../../src/lib/core/render/trial";
import { newStep } from "../../src/lib/core/session/make";
import { FRAMES, project } from "./owned";
import { ArraySource, mixed, noise, same, throughChain } from "./signals";

const [left, right] = [noise(FRAMES, 0.3, 1), noise(FRAMES, 0.3, 2)];
const source = new ArraySource({ a: [left, right] });
const N = 20000;
const quieter = [newStep("x", "gain", { gainDb: -12 })];
const doc = project(
  { clip: [newStep("g", "gain", { gainDb: -3 })], track: quieter, mix: quieter },
  { length: N }
);

function heard(steps: Parameters<typeof trialOf>[2], gainDb = 0): Float32Array {
  const trial = trialOf(doc, { kind: "clip", id: "k" }, steps, [], gainDb);
  if (!trial) throw new Error("nothing");
  expect([trial.from, trial.to]).toEqual([0, N]);
  return mixed(trial.document, source, 0, N)[0];
}

describe("a trial", () => {
  it("is the sound through the chain alone: not those of its track and the mix", () => {
    const own = throughChain(
      [newStep("g", "gain", { gainDb: -3 })],
      left.subarray(0, N),
      right.subarray(0, N)
    );
    expect(same(heard(null), own[0])).toBe(true);
    expect(same(heard([]), left.subarray(0, N))).toBe(true);
  });

  it("is as loud as before when it is brought there: 0.00 dB for a gain alone", () => {
    const levels = [
      { integratedLufs: -20, truePeakDbtp: -6 },
      { integratedLufs: -29, truePeakDbtp: -15 }
    ];
    const [before, after] = equalGains(levels, 1);
    const [a, b] = [heard([], before), heard([newStep("h", "gain", { gainDb: -9 })], after)];
    for (const i of [0, 777, N - 1]) expect(a[i]).toBeCloseTo(b[i], 7);
    expect(after).toBe(0);
  });

  it("of a recording is all of it; of what is gone nothing", () => {
    const trial = trialOf(doc, { kind: "recording", id: "a" }, []);
    expect([trial?.from, trial?.to]).toEqual([0, FRAMES]);
    expect(trialOf(doc, { kind: "clip", id: "gone" }, [])).toBeUndefined();
  });
});
