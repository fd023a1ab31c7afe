import { describe, expect, it } from "vitest";
import { coarser, overviewBytes, overviewLevel, overviewValue } from "../../src/lib/core/audio/overview";
import { foldDown } from "../../src/lib/core/audio/foldDown";
import { equalGains, heardDocument } from "../../src/lib/core/render/compare";
import { findClip } from "../../src/lib/core/session/lookup";
import type { Params } from "../../src/lib/core/effects/description";
import { newStep } from "../../src/lib/core/session/make";
import { Meter } from "../../src/lib/core/measure/meter";
import { recorded } from "./recorded";
import { ArraySource, clipOf, documentWith, eachBlock, mixed, noise, RATE } from "./signals";

const levels = (integratedLufs: number, truePeakDbtp: number) => ({ integratedLufs, truePeakDbtp });

describe("comparing at equal loudness", () => {
  it("brings others to the loudness of one, which stays as it is", () => {
    expect(equalGains([levels(-30, -20), levels(-18, -1)], 1)).toEqual([12, 0]);
    expect(equalGains([levels(-18, -1), levels(-24, -3)], 1)).toEqual([-6, 0]);
    expect(equalGains([levels(-30, -20), levels(-18, -1), levels(-12, -0.5), levels(-20, -4)], 1)).toEqual([
      12, 0, -6, 2
    ]);
  });

  it("goes down to what the one of the least headroom can be raised to", () => {
    expect(equalGains([levels(-30, -6), levels(-18, -1)], 1)).toEqual([5, -7]);
  });

  it("changes nothing as long as one is silent or not measured", () => {
    expect(equalGains([levels(-Infinity, -Infinity), levels(-20, -3)], 1)).toEqual([0, 0]);
    expect(equalGains([undefined, levels(-20, -3)], 1)).toEqual([0, 0]);
    expect(equalGains([levels(-20, -3), levels(-20, -4)], 1)).toEqual([0, 0]);
  });

  it("is within 0.1 LU in what is heard", () => {
    const x = recorded("speech", RATE).left.slice(0, 4 * RATE);
    const source = new ArraySource({ a: [x, x] });
    const owner = { table: "clips" as const, id: "clip-a" };
    const chain: { id: string; effect: string; on: boolean; params: Params }[] = [
      { id: "g", effect: "gain", on: true, params: { gainDb: -14 } },
      { id: "e", effect: "parametric-eq", on: true, params: { on1: true, type1: "highPass", freq1: 300 } }
    ];
    const doc = documentWith(clipOf("a", x.length, { steps: chain }));
    const measured = (heard: Parameters<typeof heardDocument>[1]) => {
      const [left, right] = mixed(heardDocument(doc, heard), source, 0, x.length);
      const meter = new Meter(RATE);
      eachBlock(left, right, 512, (l, r, n) => meter.push(l, r, n));
      const result = meter.result();
      meter.release();
      return result;
    };
    const ways = [[], null, [newStep("t", "tone", { bassDb: -6, trebleDb: 4 })]];
    const hear = (steps: (typeof ways)[number], gainDb: number) =>
      measured({ owners: [owner], steps, gainDb, difference: false });
    const gains = equalGains(
      ways.map((steps) => hear(steps, 0)),
      1
    );
    const loudness = ways.map((steps, i) => hear(steps, gains[i]).integratedLufs);
    for (const one of loudness) expect(Math.abs(one - loudness[1])).toBeLessThan(0.1);
    expect(gains[1]).toBe(0);
  });
});

describe("what is heard instead of the document", () => {
  const steps = [{ id: "g", effect: "gain", on: true, params: { gainDb: 6 } }];
  const doc = documentWith(clipOf("a", 4800, { steps }), clipOf("b", 4800, { steps, start: 4800 }));
  const clip = (d: typeof doc, id: string) => findClip(d, id)?.clip;
  const a = { table: "clips" as const, id: "clip-a" };
  const plain = { owners: [a], steps: null, gainDb: 0, difference: false };
  const x = noise(4800, 0.2);
  const source = new ArraySource({ a: [x, x], b: [x, x] });

  it("is the document itself as long as nothing is compared", () => {
    expect(heardDocument(doc, null)).toBe(doc);
    expect(heardDocument(doc, plain)).toBe(doc);
  });

  it("has other steps on what is compared alone", () => {
    const bare = heardDocument(doc, { ...plain, steps: [], gainDb: 3 });
    expect(clip(bare, "clip-a")).toMatchObject({ steps: [], gainDb: 3 });
    expect(clip(bare, "clip-b")).toBe(clip(doc, "clip-b"));
    const other = heardDocument(doc, { ...plain, steps: [newStep("h", "gain", { gainDb: -6 })] });
    const [left] = mixed(other, source, 0, 9600);
    expect(left[100] / x[100]).toBeCloseTo(10 ** (-6 / 20), 4);
    expect(left[4900] / x[100]).toBeCloseTo(10 ** (6 / 20), 4);
  });

  it("is, of a difference, after minus before, alone and in step with it", () => {
    // A limiter has latency: its input is kept until its output comes.
    const limited = documentWith(
      clipOf("a", 4800, { steps: [...steps, { id: "l", effect: "limiter", params: { ceilingDb: -12 } }] }),
      clipOf("b", 4800, { steps, start: 2400 })
    );
    const only = documentWith(...[clip(limited, "clip-a")].flatMap((c) => c ?? []));
    const [after] = mixed(only, source, 0, 4800);
    const [alone] = mixed(heardDocument(limited, { ...plain, difference: true }), source, 0, 4800);
    let most = 0;
    alone.forEach((v, i) => (most = Math.max(most, Math.abs(v - (after[i] - x[i])))));
    expect(most).toBeLessThan(1e-6);
    expect(alone.some((v) => Math.abs(v) > 0.01)).toBe(true);
  });

  it("is silence, of a difference, where nothing is changed; of the mix, what its chain does", () => {
    const [left] = mixed(heardDocument(doc, { ...plain, steps: [], difference: true }), source, 0, 4800);
    expect(left.every((v) => v === 0)).toBe(true);
    const mix = { table: "project" as const, id: "project" };
    const turned = heardDocument(doc, {
      owners: [mix],
      steps: [newStep("p", "gain", { gainDb: 20 * Math.log10(3) })],
      gainDb: 0,
      difference: true
    });
    const [whole] = mixed(doc, source, 0, 4800);
    const [difference] = mixed(turned, source, 0, 4800);
    for (let i = 0; i < 4800; i += 100) expect(difference[i]).toBeCloseTo(2 * whole[i], 4);
  });
});

describe("folding down to stereo (ITU-R BS.775)", () => {
  it("puts centre and surrounds 3 dB down on their sides and leaves low-frequency effects out", () => {
    const h = Math.SQRT1_2;
    expect(foldDown(1)).toEqual([[1, 1]]);
    expect(foldDown(6)).toEqual([
      [1, 0],
      [0, 1],
      [h, h],
      [0, 0],
      [h, 0],
      [0, h]
    ]);
    for (let channels = 1; channels <= 8; channels++) expect(foldDown(channels)).toHaveLength(channels);
  });
});

describe("overviews", () => {
  it("round outwards, so that nothing audible looks like silence", () => {
    expect([
      overviewValue(0),
      overviewValue(0.00001),
      overviewValue(-0.00001),
      overviewValue(2),
      overviewValue(-2)
    ]).toEqual([0, 1, -1, 32767, -32767]);
  });

  it("each level holds the least and largest of four bins of the one before", () => {
    const fine = Int16Array.from({ length: 20 }, (_, i) => (i % 2 === 0 ? -i : i));
    const out = new Int16Array(6);
    expect(coarser(fine, 10, out)).toBe(3);
    expect([...out]).toEqual([-6, 7, -14, 15, -18, 19]);
    expect(overviewBytes(0, 257)).toBe(68);
  });

  it("a zoom is drawn from the largest bins that fit into a column", () => {
    expect([1, 15.9, 16, 63, 64, 1e7].map(overviewLevel)).toEqual([-1, -1, 0, 0, 1, 7]);
  });
});
