import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { effects } from "../../src/lib/core/effects/registry";
import type { NumberParam } from "../../src/lib/core/effects/description";
import {
  parseValue,
  rounded,
  sliderOf,
  stepped,
  textOf,
  valueOfSlider
} from "../../src/lib/ui/edit/bench/scales";

const all = effects.flatMap((effect) =>
  effect.params
    .filter((p): p is NumberParam => p.kind === "number")
    .map((p) => [`${effect.id} ${p.id}`, p] as const)
);
const param = (id: string) => {
  const found = all.find(([name]) => name === id);
  if (!found) throw new Error(id);
  return found[1];
};

describe("controls of every number parameter", () => {
  it.each(all)("%s: the slider reaches both ends, the default can be shown and typed again", (_, p) => {
    expect(valueOfSlider(p, 0)).toBeCloseTo(p.min, p.decimals);
    expect(valueOfSlider(p, 1000)).toBeCloseTo(p.max, p.decimals);
    expect(sliderOf(p, p.min)).toBe(0);
    expect(sliderOf(p, p.max)).toBe(1000);
    expect(parseValue(p, textOf(p, p.default))).toBeCloseTo(p.default, p.decimals);
  });

  it("what can be off says so at that end, and takes the word", () => {
    const ceiling = param("normalize ceilingDb");
    expect(textOf(ceiling, ceiling.max)).toBe("off");
    expect(textOf(ceiling, -1)).toBe("-1.0 dB");
    expect(parseValue(ceiling, " Off ")).toBe(ceiling.max);
    expect(parseValue(param("gain gainDb"), "off")).toBeUndefined();
    for (const [, p] of all) if (p.off !== undefined) expect([p.min, p.max]).toContain(p.off);
  });

  it("arrow keys move every value, never out of its range, finely with Shift", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...all),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.boolean(),
        ([, p], t, fine) => {
          const value = rounded(p, p.min + t * (p.max - p.min));
          const up = stepped(p, value, 1, fine);
          const down = stepped(p, value, -1, fine);
          expect(up).toBeLessThanOrEqual(p.max);
          expect(down).toBeGreaterThanOrEqual(p.min);
          if (value < p.max) expect(up).toBeGreaterThan(value);
          if (value > p.min) expect(down).toBeLessThan(value);
          expect(Math.abs(stepped(p, value, 1, true) - value)).toBeLessThanOrEqual(
            Math.abs(stepped(p, value, 1, false) - value) + 1e-12
          );
        }
      ),
      { numRuns: 500 }
    );
  });
});

describe("typed values", () => {
  it.each([
    ["1.2k", 1200],
    ["1,2 kHz", 1200],
    ["80", 80],
    [" 440 Hz", 440]
  ])('"%s" is a frequency of %i Hz', (text, hertz) => {
    expect(parseValue(param("parametric-eq freq1"), text)).toBe(hertz);
  });

  it.each(["", "loud", "19", "20001", "1e9", "80abc", "80 ms", "1.2.3"])(
    '"%s" is refused as a frequency',
    (text) => {
      expect(parseValue(param("parametric-eq freq1"), text)).toBeUndefined();
    }
  );

  it("signs and units stand where they are of use", () => {
    expect(textOf(param("gain gainDb"), 3)).toBe("+3.0 dB");
    expect(textOf(param("compressor thresholdDb"), -24)).toBe("-24.0 dB");
    expect(textOf(param("compressor ratio"), 4)).toBe("4.0 :1");
  });
});
