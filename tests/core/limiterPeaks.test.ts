// Sounds that have their peaks between the samples where a search may miss them: all that the limiter lets through of them is measured by
// interpolators that are not its own.
import { describe, expect, it } from "vitest";
import { Meter } from "../../src/lib/core/measure/meter";
import { bandLimitedPeak, dB, ebur128TruePeak } from "./analysis";
import { eachBlock, noise, RATE, step, throughChain } from "./signals";

const FRAMES = 6000;
const CEILING = -1;

type Shape = (t: number) => number;
const SHAPES: Record<string, Shape> = {
  held: () => 1,
  "fading in": (t) => t,
  "fading out": (t) => 1 - t,
  swelling: (t) => Math.sin(Math.PI * t) ** 2,
  "modulated fast": (t) => 0.5 - 0.5 * Math.cos(2 * Math.PI * 37 * t),
  gated: (t) => (Math.floor(t * 23) % 2 ? 1 : 0.003)
};

/** Tones at a fraction of the rate. */
function tone(divisor: number, phase: number, shape: Shape): Float32Array {
  return Float32Array.from(
    { length: FRAMES },
    (_, i) => 0.7 * shape(i / FRAMES) * Math.sin((2 * Math.PI * i) / divisor + phase)
  );
}

/** True peak as the core measures it. */
function ownPeak(x: Float32Array): number {
  const meter = new Meter(RATE);
  eachBlock(x, x, 480, (l, r, n) => meter.push(l, r, n));
  const { truePeakDbtp } = meter.result();
  meter.release();
  return truePeakDbtp;
}

function worstOver(sounds: readonly Float32Array[], params: Record<string, number>) {
  const worst = { own: -Infinity, fine: -Infinity, library: -Infinity };
  for (const sound of sounds) {
    const [out] = throughChain([step("limiter", { gainDb: 18, ceilingDb: CEILING, ...params })], sound);
    worst.own = Math.max(worst.own, ownPeak(out) - CEILING);
    worst.fine = Math.max(worst.fine, dB(bandLimitedPeak(out)) - CEILING);
    worst.library = Math.max(worst.library, dB(ebur128TruePeak(out)) - CEILING);
  }
  return worst;
}

function expectHeld(sounds: readonly Float32Array[], params: Record<string, number> = {}): void {
  const worst = worstOver(sounds, params);
  expect(worst.own).toBeLessThan(0.1);
  expect(worst.fine).toBeLessThan(0.1);
  expect(worst.library).toBeLessThan(0.2);
}

const FASTEST = { releaseMs: 1, lookAheadMs: 1 };

describe("the limiter holds, by its own measure and 16 times oversampling to 0.1 dB, by libebur128's interpolator to 0.2 dB,", () => {
  it.each(Object.entries(SHAPES))(
    "tones from a third to an eighth of the rate at all phases, %s",
    (_, shape) => {
      const sounds = [3, 3.01, 4, 4.003, 5, 6, 6.7, 8].flatMap((divisor) =>
        [0, 0.25, 0.5, 0.75, 1].map((phase) => tone(divisor, (phase * Math.PI) / 2, shape))
      );
      expectHeld(sounds);
    }
  );

  it("tones at fast and slow releases and look-aheads", () => {
    const sounds = [4, 4.003, 8].map((divisor) => tone(divisor, Math.PI / 4, SHAPES["fading in"]));
    for (const params of [FASTEST, { releaseMs: 1, lookAheadMs: 10 }, { releaseMs: 2000, lookAheadMs: 1 }])
      expectHeld(sounds, params);
  });

  it("sums of tones", () => {
    const sounds = [3, 4, 5, 6].flatMap((a) =>
      [3.7, 4.2, 7.9].map((b) => {
        const other = tone(b, 1, SHAPES.held);
        return tone(a, 0.5, SHAPES["fading in"]).map((x, i) => x + other[i]);
      })
    );
    expectHeld(sounds);
  });

  it("square waves", () => {
    expectHeld(
      [997, 2213, 4001, 7919, 11003].map((hertz) =>
        tone(RATE / hertz, 0.3, SHAPES.held).map((x) => Math.sign(x) * 0.5)
      )
    );
  });

  it("random signs, held for one sample and for up to six", () => {
    const signs = (seed: number, longest: number) => {
      const random = noise(FRAMES, 1, seed);
      let [left, sign] = [0, 1];
      return Float32Array.from({ length: FRAMES }, (_, i) => {
        if (left-- <= 0) {
          sign = Math.sign(random[i]) || 1;
          left = Math.floor(((random[(i * 7) % FRAMES] + 1) / 2) * longest);
        }
        return sign * 0.5;
      });
    };
    expectHeld([1, 2, 3, 4, 5, 6].flatMap((seed) => [signs(seed, 1), signs(seed + 50, 6)]));
  });

  it("impulses, single and sparse", () => {
    const sparse = (seed: number) =>
      noise(FRAMES, 1, seed).map((x) => (Math.abs(x) > 0.98 ? Math.sign(x) * 0.8 : 0));
    const single = new Float32Array(FRAMES);
    single[3000] = 1;
    const pairs = new Float32Array(FRAMES);
    for (let i = 100; i < FRAMES; i += 700) pairs.set([0.9, 0.9], i);
    const sounds = [single, pairs, ...[1, 2, 3, 4, 5].map(sparse)];
    expectHeld(sounds);
    expectHeld(sounds, FASTEST);
  });

  it("white noise", () => {
    const sounds = [1, 2, 3, 4, 5, 6].map((seed) => noise(FRAMES, 0.5, seed));
    expectHeld(sounds);
    expectHeld(sounds, FASTEST);
  });
});
