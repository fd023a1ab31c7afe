// Clipped tops made anew: recorded sounds clipped so that a share of their samples is lost, and how much nearer to the original they come.
import { describe, expect, it } from "vitest";
import { declip } from "../../src/lib/core/effects/declip";
import { ChainLearner } from "../../src/lib/core/effects/learning";
import { Meter } from "../../src/lib/core/measure/meter";
import { RawStream } from "../../src/lib/core/render/rawStream";
import { peakOf } from "./analysis";
import { recorded } from "./recorded";
import { ArraySource, eachBlock, RATE, same, step, throughChain } from "./signals";

/** A recording as it sounds at another speed, at a peak of -1 dBFS: another voice. */
function voice(name: string, speed: number): Float32Array {
  const { left } = recorded(name, Math.round(RATE / speed));
  const scale = 0.89 / peakOf(left);
  return left.slice(0, 4 * RATE).map((x) => x * scale);
}

/** The level beyond which a share of all samples that are not next to silence lies. */
function levelFor(x: Float32Array, share: number): number {
  const loud = Float32Array.from(x, Math.abs)
    .filter((v) => v > 1e-4)
    .sort();
  return loud[Math.floor(loud.length * (1 - share))];
}

const clippedAt = (x: Float32Array, level: number) => x.map((v) => Math.max(-level, Math.min(level, v)));

/** By how many dB y is nearer to the original than x was. */
function gain(original: Float32Array, x: Float32Array, y: Float32Array): number {
  let [before, after] = [0, 0];
  original.forEach((v, i) => {
    before += (x[i] - v) ** 2;
    after += (y[i] - v) ** 2;
  });
  return 10 * Math.log10(before / after);
}

const VOICES = ["speech", "speech-pauses"].flatMap((name) =>
  [0.8, 1, 1.3].map((speed) => [name, speed] as const)
);

/** What ffmpeg's adeclip (5.1.9, the best of orders 8, 16, 25 and thresholds 1 to 30) gains on these voices, measured once. */
const ADECLIP = [6.5, 6.5, 5.7, 3.2, 2.9, 1.9];

describe("de-clip", () => {
  it("brings voices with 5 % of their samples clipped 8 dB nearer in the mean, none less than 5", () => {
    const gains = VOICES.map(([name, speed], v) => {
      const original = voice(name, speed);
      const level = levelFor(original, 0.05);
      const x = clippedAt(original, level);
      const [y] = throughChain([step("declip")], x);
      // Never below what is left, and everything else as it was.
      const lower = y.filter((v, i) => Math.abs(x[i]) >= level && Math.abs(v) < level);
      const other = y.filter((v, i) => Math.abs(x[i]) < level * 0.999 && v !== x[i]);
      expect([lower.length, other.length]).toEqual([0, 0]);
      const nearer = gain(original, x, y);
      expect(nearer).toBeGreaterThan(ADECLIP[v] - 0.3);
      return nearer;
    });
    expect(Math.min(...gains)).toBeGreaterThan(5);
    expect(gains.reduce((a, b) => a + b, 0) / gains.length).toBeGreaterThan(8);
  });

  it("restores a guitar", () => {
    const original = voice("guitar", 1);
    const x = clippedAt(original, levelFor(original, 0.03));
    expect(gain(original, x, throughChain([step("declip")], x)[0])).toBeGreaterThan(10);
  });

  it.each(["speech", "speech-pauses", "guitar", "drum-snare-hard", "drum-bass-hard"])(
    "leaves %s alone, which is not clipped",
    (name) => {
      const x = voice(name, 1);
      expect(same(throughChain([step("declip")], x)[0], x)).toBe(true);
      expect(declip.found?.({ samples: 0 })).toBe("Nothing clipped was found: nothing is changed.");
    }
  );

  it("works on each side and each sign by itself", () => {
    const length = 3 * RATE;
    const [left, right] = ["speech", "speech-pauses"].map((name) => voice(name, 1).slice(0, length));
    const level = levelFor(left, 0.02);
    const x = left.map((v) => Math.min(level, v));
    const [l, r] = throughChain([step("declip")], x, right);
    expect(same(r, right)).toBe(true);
    expect(gain(left, x, l)).toBeGreaterThan(5);
    expect(l.every((v, i) => v === x[i] || v > 0)).toBe(true);
  });

  it("takes a level that is set, for tops that are no longer flat", () => {
    const original = voice("speech", 1);
    const level = levelFor(original, 0.03);
    // A little hiss lies over what was clipped.
    const x = clippedAt(original, level).map((v, i) => v + 0.002 * Math.sin(i * i));
    expect(same(throughChain([step("declip")], x)[0], x)).toBe(true);
    const levelDb = 20 * Math.log10(level - 0.002);
    const [y] = throughChain([step("declip", { level: "set", levelDb })], x);
    expect(gain(original, x, y)).toBeGreaterThan(5);
  });

  it("tells how many samples, at which level, and the new true peak; shows how far it is", () => {
    const original = voice("speech", 1);
    const x = clippedAt(original, levelFor(original, 0.02));
    const source = new ArraySource({ x: [x, x] });
    const learner = new ChainLearner({
      steps: [step("declip")],
      sampleRate: RATE,
      frames: x.length,
      channels: 1,
      open: (from) => new RawStream(source, "x", from, x.length),
      sound: () => undefined
    });
    const seen = [learner.progress];
    while (!learner.advance(4096)) seen.push(learner.progress);
    expect(seen.length).toBeGreaterThan(40);
    expect(seen.every((p, i) => i === 0 || p >= seen[i - 1])).toBe(true);
    const values = learner.learnt[0]?.values ?? {};
    learner.release();

    const [y] = throughChain([step("declip")], x);
    const meter = new Meter(RATE);
    eachBlock(y, y, 512, (l, r, n) => meter.push(l, r, n));
    expect(Number(values.truePeakDbtp)).toBeCloseTo(meter.result().truePeakDbtp, 2);
    meter.release();
    const changed = y.filter((v, i) => v !== x[i]).length;
    expect(Number(values.samples)).toBeGreaterThanOrEqual(changed);
    expect(declip.found?.(values)).toBe(
      `${values.samples} samples clipped at ${Number(values.levelDb).toFixed(1)} dBFS; restored they reach ${Number(values.truePeakDbtp) > 0 ? "+" : ""}${Number(values.truePeakDbtp).toFixed(1)} dBTP.`
    );
  });
});
