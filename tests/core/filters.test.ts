import { describe, expect, it } from "vitest";
import { prototype, prototypePower, responseDb, type BandType } from "../../src/lib/core/audio/biquadDesign";
import { bandFilter, butterworth } from "../../src/lib/core/audio/matchedFilter";
import { completeParams } from "../../src/lib/core/effects/registry";
import { eqSections, parametricEq } from "../../src/lib/core/effects/parametricEq";
import { noise, step, throughChain } from "./signals";

/** Gain in dB at a frequency, from the impulse response: a direct Fourier sum, independent of any transfer function. */
function measuredDb(impulseResponse: Float32Array, hertz: number, rate: number): number {
  let re = 0;
  let im = 0;
  impulseResponse.forEach((h, n) => {
    re += h * Math.cos((2 * Math.PI * hertz * n) / rate);
    im -= h * Math.sin((2 * Math.PI * hertz * n) / rate);
  });
  return 10 * Math.log10(re * re + im * im);
}

const RATE = 44100;
const FREQUENCIES = [30, 60, 120, 250, 500, 1000, 2000, 4000, 8000, 12000, 16000, 18000];

describe("parametric EQ", () => {
  const params = {
    on1: true,
    type1: "highPass",
    freq1: 70,
    slope1: "24",
    on2: true,
    freq2: 300,
    gain2: -6,
    q2: 2,
    on3: true,
    type3: "lowShelf",
    freq3: 150,
    gain3: 5,
    on4: true,
    type4: "highShelf",
    freq4: 5000,
    gain4: -7,
    on5: true,
    type5: "notch",
    freq5: 1500,
    q5: 4,
    on6: true,
    type6: "lowPass",
    freq6: 15000,
    slope6: "18"
  };

  it("passes sound by its own transfer function, within 0.02 dB", () => {
    const impulse = new Float32Array(RATE);
    impulse[0] = 1;
    const [response] = throughChain([step("parametric-eq", params)], impulse, impulse, RATE);
    const sections = eqSections(completeParams(parametricEq, params), RATE);
    for (const hertz of FREQUENCIES)
      expect(
        Math.abs(measuredDb(response, hertz, RATE) - responseDb(sections, (2 * Math.PI * hertz) / RATE))
      ).toBeLessThan(0.02);
  });

  // Reference: the analogue prototypes of the Audio EQ Cookbook (W3C Note), evaluated on the s axis.
  const types: BandType[] = ["peak", "lowShelf", "highShelf", "highPass", "lowPass", "bandPass", "notch"];
  it.each(types)(
    "%s follows its analogue prototype within 0.3 dB up to 18 kHz at 44.1 kHz, for every centre, Q and gain",
    (type) => {
      const gains = type === "peak" || type.endsWith("Shelf") ? [-24, -7, 3, 18] : [0];
      const qs = type.endsWith("Shelf")
        ? [0.3, 0.71, 2]
        : type.endsWith("Pass")
          ? [0.5, 0.71, 2.6]
          : [0.1, 0.71, 3, 30];
      for (const hertz of [20, 90, 700, 3000, 8000, 12000, 16000, 20000])
        for (const q of qs)
          for (const db of gains) {
            const sections = bandFilter(type, 10 ** (db / 40), q, (2 * Math.PI * hertz) / RATE);
            const analogue = prototype(type, 10 ** (db / 40), q);
            for (let f = 20; f <= 18000; f *= 1.05) {
              const want = 10 * Math.log10(prototypePower(analogue, f / hertz));
              if (want < -60) continue;
              const error = Math.abs(responseDb(sections, (2 * Math.PI * f) / RATE) - want);
              if (error >= 0.3) expect.fail(`${hertz} Hz, Q ${q}, ${db} dB: off by ${error} dB at ${f} Hz`);
            }
          }
    }
  );

  it.each([1, 2, 3, 4, 6, 8])(
    "Butterworth high-pass of order %i is 3.01 dB down at its corner and 6 dB an octave steep for each order",
    (order) => {
      const sections = butterworth("highPass", order, (2 * Math.PI * 1000) / 48000);
      const at = (hertz: number) => responseDb(sections, (2 * Math.PI * hertz) / 48000);
      expect(at(1000)).toBeCloseTo(-3.01, 1);
      expect(at(125) - at(62.5)).toBeCloseTo(6.02 * order, 0);
      expect(at(10000)).toBeCloseTo(0, 0);
    }
  );

  it("leaves the sound alone, bit for bit, when flat", () => {
    const wave = noise(5000);
    const [out] = throughChain([step("parametric-eq", { on1: true, gain1: 0 })], wave);
    expect(out).toEqual(wave);
  });

  it("gives finite samples for every band type at 8 kHz, where most corners lie above half the rate", () => {
    const wave = noise(8000);
    for (const type of ["peak", "lowShelf", "highShelf", "highPass", "lowPass", "bandPass", "notch"]) {
      const [out] = throughChain(
        [step("parametric-eq", { on1: true, type1: type, freq1: 20000, gain1: 24 })],
        wave,
        wave,
        8000
      );
      expect(out.every(Number.isFinite), type).toBe(true);
    }
  });
});
