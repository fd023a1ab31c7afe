import { describe, expect, it } from "vitest";
import { coarser, overviewBytes, overviewLevel, overviewValue } from "../../src/lib/core/audio/overview";
import { foldDown } from "../../src/lib/core/audio/foldDown";
import { comparedDocument, equalLoudnessGains } from "../../src/lib/core/render/compare";
import { findClip } from "../../src/lib/core/session/lookup";
import { clipOf, documentWith } from "./signals";

const levels = (integratedLufs: number, truePeakDbtp: number) => ({ integratedLufs, truePeakDbtp });

describe("comparing at equal loudness", () => {
  it("raises the quieter one as far as its peak allows and lowers the louder one for the rest", () => {
    expect(equalLoudnessGains(levels(-30, -20), levels(-18, -1))).toEqual({
      beforeGainDb: 12,
      afterGainDb: 0
    });
    expect(equalLoudnessGains(levels(-30, -6), levels(-18, -1))).toEqual({
      beforeGainDb: 5,
      afterGainDb: -7
    });
    expect(equalLoudnessGains(levels(-18, -1), levels(-24, -3))).toEqual({
      beforeGainDb: -4,
      afterGainDb: 2
    });
  });

  it("changes nothing when one is silent or both are alike", () => {
    const none = { beforeGainDb: 0, afterGainDb: 0 };
    expect(equalLoudnessGains(levels(-Infinity, -Infinity), levels(-20, -3))).toEqual(none);
    expect(equalLoudnessGains(levels(-20, -3), levels(-20, -4))).toEqual(none);
  });

  it("takes the steps off the compared clip only, and leaves the others as they are", () => {
    const steps = [{ id: "g", effect: "gain", on: true, params: { gainDb: 6 } }];
    const doc = documentWith(clipOf("a", 100, { steps }), clipOf("b", 100, { steps }));
    const clip = (d: typeof doc, id: string) => findClip(d, id)?.clip;
    const compared = comparedDocument(doc, {
      owner: { table: "clips", id: "clip-a" },
      listen: "before",
      beforeGainDb: 3,
      afterGainDb: 0
    });
    expect(clip(compared, "clip-a")).toMatchObject({ steps: [], gainDb: 3 });
    expect(clip(compared, "clip-b")).toBe(clip(doc, "clip-b"));
    expect(clip(compared, "clip-b")?.steps).toHaveLength(1);
    expect(comparedDocument(doc, null)).toBe(doc);
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
