import { describe, expect, it } from "vitest";
import { Ahead } from "../../src/lib/playback/ahead";

const looks = (ahead: Ahead, n: number, least: number, load = 0) => {
  for (let i = 0; i < n; i++) ahead.look(least, load);
  return ahead.seconds;
};

describe("how much sound lies ready", () => {
  it("grows as soon as it gets scarce, up to a limit, and shrinks by steps while there is enough", () => {
    const ahead = new Ahead();
    const first = ahead.seconds;
    expect(looks(ahead, 1, 0.002)).toBeCloseTo(first + 0.004);
    expect(looks(ahead, 1, 0)).toBeCloseTo(first + 0.016);
    expect(looks(ahead, 30, 0)).toBe(0.09);
    expect(looks(ahead, 9, 0.05)).toBe(0.09);
    expect(looks(ahead, 1, 0.05)).toBeCloseTo(0.082);
    // A calm that is broken counts anew.
    looks(ahead, 8, 0.05);
    expect(looks(ahead, 1, 0.001)).toBeCloseTo(0.086);
    expect(looks(ahead, 9, 0.05)).toBeCloseTo(0.086);
    expect(looks(ahead, 100000, 0.05)).toBe(0.012);
  });

  it("keeps more for a mix that takes much of a core", () => {
    const ahead = new Ahead();
    const first = ahead.seconds;
    expect(looks(ahead, 1, 0.05, 0.9)).toBe(first);
    expect(looks(ahead, 1, 0.05, 0.1)).toBeCloseTo(first);
    expect(looks(ahead, 2, 0.05, 0.5)).toBeCloseTo(0.042);
    expect(looks(ahead, 1000, 0.05, 0.5)).toBeCloseTo(0.042);
    expect(looks(ahead, 1000, 0.05, 0.1)).toBeCloseTo(0.018);
  });

  it("stays more for a while after some was missing, the more often the more", () => {
    const ahead = new Ahead();
    looks(ahead, 1, 0);
    expect(looks(ahead, 100, 0.05)).toBeCloseTo(0.02);
    looks(ahead, 1, 0);
    expect(looks(ahead, 199, 0.05)).toBeCloseTo(0.028);
    expect(looks(ahead, 20, 0.05)).toBeCloseTo(0.02);
    expect(looks(ahead, 220, 0.05)).toBeCloseTo(0.012);
    looks(ahead, 50, 0);
    expect(looks(ahead, 100, 0.09)).toBeCloseTo(0.044);
  });

  it("shrinks by no more than what is left over, and stays where less would be too little", () => {
    const first = new Ahead().seconds;
    expect(looks(new Ahead(), 10, 0.008)).toBeCloseTo(first - 0.001);
    expect(looks(new Ahead(), 10000, 0.007)).toBe(first);
  });
});
