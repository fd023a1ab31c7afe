import { describe, expect, it } from "vitest";
import { LoudnessSteps } from "../../src/lib/core/measure/loudness";
import { loudnessCurve } from "../../src/lib/core/measure/loudnessCurve";

/** Weighted mean square of a loudness: BS.1770-5, equation 2. */
const power = (lufs: number) => 10 ** ((lufs + 0.691) / 10);

/** Steady loudness, one after the other, for so many seconds each. */
function steps(...parts: [lufs: number, seconds: number][]): LoudnessSteps {
  const out = new LoudnessSteps();
  for (const [lufs, seconds] of parts) for (let i = 0; i < seconds * 100; i++) out.add(power(lufs));
  return out;
}

describe("loudness over time", () => {
  it("is that of the standard's measures at the end of each column", () => {
    const all = steps([-30, 10], [-20, 10]);
    const curve = loudnessCurve(all, 200);
    expect(curve.integrated).toHaveLength(200);
    expect(curve.momentaryHigh[50]).toBeCloseTo(-30, 6);
    expect(curve.momentaryHigh[104]).toBeCloseTo(-20, 6);
    expect(curve.momentaryLow[104]).toBeCloseTo(-20, 6);
    // 2 s of 3 s are loud.
    expect(curve.shortTermHigh[119]).toBeCloseTo(
      -0.691 + 10 * Math.log10((2 * power(-20) + power(-30)) / 3),
      6
    );
    expect(curve.integrated[99]).toBeCloseTo(-30, 6);
    // The last is the integrated loudness of all: EBU Tech 3341's gate leaves out nothing here.
    expect(curve.integrated[199]).toBe(all.integrated());
    expect(curve.momentaryHigh[2]).toBe(-Infinity);
    expect(curve.shortTermHigh[28]).toBe(-Infinity);
    expect(curve.shortTermHigh[29]).toBeCloseTo(-30, 6);
  });

  it("keeps the least and the largest of what falls into one column", () => {
    const curve = loudnessCurve(steps([-30, 5], [-20, 5], [-30, 5], [-20, 5]), 2);
    expect(curve.momentaryLow[1]).toBeCloseTo(-30, 6);
    expect(curve.momentaryHigh[0]).toBeCloseTo(-20, 6);
  });

  it("has no more columns than there are tenths of a second, and none of nothing", () => {
    expect(loudnessCurve(steps([-30, 1]), 500).integrated).toHaveLength(10);
    expect(loudnessCurve(new LoudnessSteps(), 500).integrated).toHaveLength(0);
  });
});
