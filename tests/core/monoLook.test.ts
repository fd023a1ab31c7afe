// What becomes of a stereo sound in mono, against what follows from the sums themselves.
import { describe, expect, it } from "vitest";
import { MonoLook, type MonoView } from "../../src/lib/core/measure/monoLook";
import { placeOfRepair } from "../../src/lib/core/session/repairs";
import { eachBlock, noise, RATE, sine } from "./signals";

function look(left: Float32Array, right: Float32Array): MonoView {
  const it = new MonoLook(RATE);
  eachBlock(left, right, 512, (l, r, n) => it.push(l, r, n));
  const view = it.finish();
  it.release();
  return view;
}

const [a, b] = [noise(4 * RATE, 0.3, 1), noise(4 * RATE, 0.3, 7)];

describe("in mono", () => {
  it("a sound in the middle loses nothing, one side alone and sides with nothing in common 3 dB, turned sides all", () => {
    expect(look(a, a)).toMatchObject({ correlation: expect.closeTo(1, 6) as number, cancelled: null });
    expect(look(a, a).lossLu).toBeCloseTo(0, 2);
    const apart = look(a, b);
    expect(apart.correlation).toBeCloseTo(0, 1);
    expect(apart.lossLu).toBeCloseTo(-3.01, 1);
    expect(apart.cancelled).toBeNull();
    // Power 1 on one side becomes 1/4 on both.
    expect(look(a, new Float32Array(a.length))).toMatchObject({ correlation: null });
    expect(look(a, new Float32Array(a.length)).lossLu).toBeCloseTo(-3.01, 2);
    const turned = look(
      a,
      a.map((x) => -x)
    );
    expect(turned.correlation).toBeCloseTo(-1, 6);
    expect(turned.lossLu).toBe(-Infinity);
  });

  it("sides of a known correlation lose what follows from it: 10 log((1 + ρ) / 2)", () => {
    for (const rho of [-0.8, -0.3, 0.5]) {
      const right = a.map((x, i) => rho * x + Math.sqrt(1 - rho * rho) * b[i]);
      const view = look(a, right);
      expect(view.correlation).toBeCloseTo(rho, 1);
      expect(view.lossLu).toBeCloseTo(10 * Math.log10((1 + rho) / 2), 0);
    }
  });

  it("the band that cancels is named", () => {
    const low = sine(120, -12, a.length);
    const high = sine(3000, -12, a.length);
    const sum = (s: number) => low.map((x, i) => s * x + high[i]);
    const { cancelled, bands } = look(sum(1), sum(-1));
    expect(cancelled?.from).toBeLessThan(120);
    expect(cancelled?.to).toBeGreaterThan(120);
    expect(cancelled?.to).toBeLessThan(400);
    expect(cancelled?.lossDb).toBeLessThan(-20);
    const near = bands.find(({ from, to }) => from <= 3000 && to > 3000);
    expect(near?.lossDb).toBeCloseTo(0, 1);
  });

  it("silence has no correlation and loses nothing", () => {
    const silence = new Float32Array(RATE);
    expect(look(silence, silence)).toEqual({ correlation: null, lossLu: 0, bands: [], cancelled: null });
  });
});

describe("a repair", () => {
  const chain = (...effects: string[]) => effects.map((effect) => ({ effect }));
  it("comes before all that treats, behind the repairs that are made before it", () => {
    expect(placeOfRepair(chain("compressor", "limiter"), "hum-removal")).toBe(0);
    expect(placeOfRepair(chain("declip", "hum-removal", "compressor"), "click-repair")).toBe(2);
    expect(placeOfRepair(chain("noise-reduction", "compressor"), "declip")).toBe(0);
    expect(placeOfRepair(chain("declip"), "gain")).toBe(1);
    expect(placeOfRepair(chain("compressor"), "reverb")).toBe(1);
  });
});
