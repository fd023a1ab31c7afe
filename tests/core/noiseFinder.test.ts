// Whether there is steady noise at all: in clean sound there is none, however tightly it is cut, and nothing is taken; where there is, it is found
// without a stretch of it alone. The sounds are cut from recordings of read speech and of instruments (tests/fixtures).
import { describe, expect, it } from "vitest";
import { median } from "../../src/lib/core/audio/statistics";
import { NoiseFinder, type FoundNoise } from "../../src/lib/core/effects/noiseFinder";
import { noiseReduction } from "../../src/lib/core/effects/noiseReduction";
import { dB, pink, rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { eachBlock, noise, RATE, same, sine, step, throughChain } from "./signals";

function found(x: Float32Array): FoundNoise | undefined {
  const finder = new NoiseFinder(RATE);
  eachBlock(x, x, 512, (l, r, n) => finder.push(l, r, n));
  const result = finder.finish();
  finder.release();
  return result;
}

/** Pieces of a recording, so many seconds long, one every so many seconds. */
function pieces(name: string, seconds: number, every: number): Float32Array[] {
  const { left } = recorded(name, RATE);
  const length = Math.round(seconds * RATE);
  const out: Float32Array[] = [];
  for (let at = 0; at + length <= left.length; at += Math.round(every * RATE))
    out.push(left.slice(at, at + length));
  return out;
}

const voices = [...pieces("speech", 1.2, 0.1), ...pieces("speech-pauses", 1.5, 0.15)];

describe("in clean sound no noise is found, and nothing is taken", () => {
  it("from speech that is cut tightly, bit for bit", () => {
    expect(voices.length).toBeGreaterThanOrEqual(40);
    const taken = voices.filter((x) => !same(throughChain([step("noise-reduction")], x)[0], x));
    expect(taken).toHaveLength(0);
  });

  it.each(["guitar", "drum-snare-hard", "drum-tom-mid-hard", "drum-bass-hard"])("from %s", (name) => {
    const x = recorded(name, RATE).left.slice();
    expect(same(throughChain([step("noise-reduction")], x)[0], x)).toBe(true);
  });

  it("from a held chord: its floor is tones", () => {
    const tones = [220, 277.2, 329.6, 440].map((hertz) => sine(hertz, -24, RATE * 3));
    const chord = tones[0].map((_, i) => tones.reduce((sum, t) => sum + t[i], 0));
    expect(found(chord)).toBeUndefined();
  });

  it("and the step says so", () => {
    expect(noiseReduction.found?.({ profile: "" })).toBe("No steady noise found: nothing is taken.");
    const heard = { profile: "x", levelDb: -61.8, loudestDb: -61.8, sure: "sure" };
    expect(noiseReduction.found?.(heard)).toBe("Noise at -62 dBFS, sure.");
    expect(noiseReduction.found?.({ ...heard, loudestDb: -52.3 })).toBe("Noise at -62 to -52 dBFS, sure.");
  });
});

describe("steady noise under tightly cut speech is found", () => {
  const kinds: Record<string, (frames: number, rms: number) => Float32Array> = {
    white: (frames, rms) => noise(frames, Math.sqrt(3) * rms, 31),
    pink: (frames, rms) => pink(noise(frames, 1, 32), rms),
    // Air and rumble of a room: pink, most of it low.
    room: (frames, rms) => {
      let low = 0;
      const x = pink(noise(frames, 1, 33), 1).map((v) => v * 0.15 + (low += 0.03 * (v - low)));
      const scale = rms / rmsOf(x);
      return x.map((v) => v * scale);
    }
  };
  const tight = pieces("speech", 2.5, 0.2);
  const paused = pieces("speech-pauses", 2.5, 0.4);
  const mixed = (x: Float32Array, kind: string, snr: number) => {
    const hiss = kinds[kind](x.length, rmsOf(x) * 10 ** (-snr / 20));
    return { hiss, noisy: x.map((v, i) => v + hiss[i]) };
  };
  /** Share that is found, share of these whose level is read within 5.5 dB, and by how much too low and too high at most, in dB. */
  function judged(
    sounds: readonly Float32Array[],
    kind: string,
    snr: number
  ): { share: number; near: number; low: number; high: number } {
    const errors = sounds.flatMap((x) => {
      const { hiss, noisy } = mixed(x, kind, snr);
      const got = found(noisy);
      return got ? [got.levelDb - dB(rmsOf(hiss))] : [];
    });
    const near = errors.filter((error) => Math.abs(error) < 5.5).length / errors.length;
    return {
      share: errors.length / sounds.length,
      near,
      low: -Math.min(...errors),
      high: Math.max(...errors)
    };
  }

  it.each([
    ["white", 5, 1, 0.5, 1.5],
    ["white", 10, 1, 0.5, 1.5],
    ["white", 15, 1, 0.5, 2],
    ["white", 20, 1, 0.5, 2.5],
    ["pink", 5, 1, 1.5, 1.5],
    ["pink", 10, 1, 1.5, 3.5],
    ["pink", 15, 1, 3.5, 6],
    ["room", 5, 1, 3, 2],
    // Rumble that voices cover lies in no other bands: one clip of 24 shows its air only.
    ["room", 10, 1, 16, 2.5]
  ] as const)("%s at %i dB", (kind, snr, share, low, high) => {
    const result = judged(tight, kind, snr);
    expect(result.share).toBeGreaterThanOrEqual(share);
    expect(result.near).toBeGreaterThan(0.95);
    expect(result.low).toBeLessThan(low);
    expect(result.high).toBeLessThan(high);
  });

  // Pink noise at 20 dB lies under every moment of such a voice: some of the voice is taken for it still.
  it.each([
    ["white", 15, 1, -6.5, -4.5],
    ["white", 20, 1, -6.5, -5],
    ["pink", 15, 1, -0.5, 2.5],
    ["pink", 20, 0.9, 1.5, 6],
    ["room", 10, 1, -2.5, 0]
  ] as const)(
    "%s at %i dB, and what is left is nearer to the clean sound",
    (kind, snr, share, typical, most) => {
      const farther = tight.flatMap((x) => {
        const { hiss, noisy } = mixed(x, kind, snr);
        const [out] = throughChain([step("noise-reduction")], noisy);
        return same(out, noisy) ? [] : [dB(rmsOf(out.map((v, i) => v - x[i]))) - dB(rmsOf(hiss))];
      });
      expect(farther.length / tight.length).toBeGreaterThanOrEqual(share);
      expect(median(farther)).toBeLessThan(typical);
      expect(Math.max(...farther)).toBeLessThan(most);
    }
  );

  // Telephones and low cuts pass nothing below 200 Hz: rumble of the room is bare there, all else of it is covered.
  it.each([
    [15, 0.95],
    [20, 0.65]
  ])("rumble of a room at %i dB below voices without lows is found and taken", (snr, share) => {
    const cut = tight.map((x) =>
      [0, 1, 2, 3].reduce((y) => {
        let low = 0;
        return y.map((v) => v - (low += 0.026 * (v - low)));
      }, x)
    );
    expect(cut.filter((x) => found(x))).toHaveLength(0);
    const farther = cut.flatMap((x) => {
      const { hiss, noisy } = mixed(x, "room", snr);
      const [out] = throughChain([step("noise-reduction")], noisy);
      return same(out, noisy) ? [] : [dB(rmsOf(out.map((v, i) => v - x[i]))) - dB(rmsOf(hiss))];
    });
    expect(farther.length / cut.length).toBeGreaterThanOrEqual(share);
    expect(median(farther)).toBeLessThan(-4.5);
    expect(Math.max(...farther)).toBeLessThan(0);
  });

  it.each(["white", "pink", "room"])("and with pauses %s at 20 dB too", (kind) => {
    const result = judged(paused.slice(-3), kind, 20);
    expect(result.share).toBe(1);
    expect(Math.max(result.low, result.high)).toBeLessThan(2.5);
  });

  it("and alone, digital silence beside it or not", () => {
    const hiss = noise(RATE * 2, 0.01, 41);
    const gap = hiss.map((x, i) => (i > RATE * 0.5 && i < RATE * 1.2 ? 0 : x));
    for (const x of [hiss, gap]) expect(Math.abs((found(x)?.levelDb ?? 0) - dB(rmsOf(hiss)))).toBeLessThan(1);
  });
});

describe("noise whose level changes is followed", () => {
  const { left } = recorded("speech-pauses", RATE);
  const length = 24 * RATE;
  // Speech at -26 dBFS with 0.6 s between two passages.
  const scale = 0.05 / rmsOf(left);
  const gap = Math.round(0.6 * RATE);
  const clean = new Float32Array(length);
  const pauses: [number, number][] = [];
  for (let at = 0; at < length; at += left.length + gap) {
    pauses.push([at + 4800, at + gap - 4800]);
    for (let i = 0; i < left.length && at + gap + i < length; i++) clean[at + gap + i] = left[i] * scale;
  }
  const moves: Record<string, (share: number) => number> = {
    "a step up": (t) => (t > 0.5 ? 10 : 0),
    "a step down": (t) => (t > 0.5 ? 0 : 10),
    "a step for a fifth of the time": (t) => (t > 0.4 && t < 0.6 ? 10 : 0),
    "a slow rise": (t) => 10 * t
  };
  const hisses = {
    white: noise(length, Math.sqrt(3) * 0.005, 61),
    pink: pink(noise(length, 1, 62), 0.005)
  };

  it.each(
    (["white", "pink"] as const).flatMap((kind) => Object.keys(moves).map((move) => [kind, move] as const))
  )("%s noise with %s of 10 dB: pauses fall by 14 dB and more", (kind, move) => {
    const noisy = clean.map((x, i) => x + hisses[kind][i] * 10 ** (moves[move](i / length) / 20));
    const [out] = throughChain([step("noise-reduction")], noisy);
    const cuts = pauses.map(([from, to]) => dB(rmsOf(out, from, to)) - dB(rmsOf(noisy, from, to)));
    expect(Math.max(...cuts)).toBeLessThan(-9);
    expect(median(cuts)).toBeLessThan(-14);
    // The found levels are 10 dB apart; a slow rise has its own ends only for a moment.
    const got = found(noisy);
    expect(Math.abs((got?.loudestDb ?? 0) - (got?.levelDb ?? 0) - 10)).toBeLessThan(
      move === "a slow rise" ? 3 : 1
    );
  });
});
