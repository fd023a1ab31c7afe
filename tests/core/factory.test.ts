// The chains that come with Wring do what their notes say, measured.
import { describe, expect, it } from "vitest";
import { FACTORY_PRESETS } from "../../src/lib/core/presets/factory";
import { effects, findEffect, firstFault } from "../../src/lib/core/effects/registry";
import { chainTiming } from "../../src/lib/core/effects/chain";
import { Meter } from "../../src/lib/core/measure/meter";
import { ownerFault } from "../../src/lib/core/session/owners";
import { eachBlock, noise, RATE, sine, throughChain } from "./signals";

const preset = (id: string) => {
  const found = FACTORY_PRESETS.find((one) => one.id === `wring-${id}`);
  if (!found) throw new Error(`no preset ${id}`);
  return [...found.steps];
};

function measured(left: Float32Array, right = left) {
  const meter = new Meter(RATE);
  eachBlock(left, right, 4096, (l, r, n) => meter.push(l, r, n));
  const result = meter.result();
  meter.release();
  return result;
}

const level = (x: Float32Array) => 10 * Math.log10(x.reduce((sum, v) => sum + v * v, 0) / x.length);
const through = (id: string, x: Float32Array) => throughChain(preset(id), x)[0];
/** Syllables of noise, louder and quieter sentences. */
const speech = noise(RATE * 20, 0.5, 9).map((x, i) => {
  const second = (i / RATE) % 5;
  const sentence = Math.floor(i / (RATE * 5)) % 2 ? 0.06 : 0.5;
  return second > 4 ? 0 : x * (0.15 + Math.max(0, Math.sin(i / 3000)) ** 2) * sentence;
});

describe("presets that come with Wring", () => {
  it("are complete, named once, for recordings as well as clips, and say what they are for", () => {
    expect(new Set(FACTORY_PRESETS.map(({ name }) => name)).size).toBe(FACTORY_PRESETS.length);
    for (const { name, notes, tags, steps } of FACTORY_PRESETS) {
      expect(notes.length, name).toBeGreaterThan(40);
      expect(tags.length, name).toBeGreaterThan(0);
      for (const one of steps) {
        const effect = findEffect(one.effect);
        expect(effect && firstFault(effect, one.params), name).toBeUndefined();
        expect(ownerFault("recordings", one), name).toBeUndefined();
      }
    }
  });

  it("exist for each effect that has settings", () => {
    for (const { id, params, presets } of effects)
      if (params.length > 0) expect(presets.length, id).toBeGreaterThan(0);
  });

  it("web speech ends with peaks at -1 dBFS, without bass", () => {
    const out = through("web-speech", speech);
    expect(measured(out).samplePeakDbfs).toBeCloseTo(-1, 1);
    expect(level(through("web-speech", sine(30, -20, RATE * 2)).subarray(RATE))).toBeLessThan(
      level(sine(30, -1, RATE)) - 6
    );
  });

  it("rescue lifts by 24 dB and holds -0.1 dBTP", () => {
    const low = speech.map((x) => x * 0.02);
    expect(level(through("rescue-low", low)) - level(low)).toBeGreaterThan(22);
    expect(measured(through("rescue-low", speech)).truePeakDbtp).toBeLessThanOrEqual(-0.05);
  });

  it("the telephone passes 300 to 3400 Hz and nothing far beside it", () => {
    const gain = (hertz: number) => {
      const tone = sine(hertz, -50, RATE * 2);
      return level(through("telephone", tone).subarray(RATE)) - level(tone.subarray(RATE));
    };
    const middle = gain(1000);
    expect(gain(100)).toBeLessThan(middle - 30);
    expect(gain(8000)).toBeLessThan(middle - 20);
    expect(Math.abs(gain(2500) - middle)).toBeLessThan(4);
  });

  it("noisy room takes the noise down by more than 8 dB and leaves loud speech", () => {
    const hiss = noise(speech.length, 0.004, 4);
    const noisy = speech.map((x, i) => x + hiss[i]);
    const out = through("noisy-room", noisy);
    expect(measured(out).noiseFloorDbfs).toBeLessThan(measured(noisy).noiseFloorDbfs - 8);
    const loud = (x: Float32Array) => level(x.subarray(RATE * 11, RATE * 14));
    expect(Math.abs(loud(out) - loud(noisy))).toBeLessThan(1.5);
  });

  it("mains hum takes a 50 Hz buzz out by more than 20 dB", () => {
    const buzz = [50, 100, 150, 200].map((hertz) => sine(hertz, -40, speech.length));
    const hum = speech.map((x, i) => x * 0.2 + buzz.reduce((sum, line) => sum + line[i], 0));
    const out = through("mains-hum", hum);
    const at = (x: Float32Array, hertz: number) => {
      let [a, b] = [0, 0];
      for (let i = 0; i < RATE * 10; i++) {
        a += x[i + RATE * 5] * Math.cos((2 * Math.PI * hertz * i) / RATE);
        b += x[i + RATE * 5] * Math.sin((2 * Math.PI * hertz * i) / RATE);
      }
      return 10 * Math.log10(a * a + b * b);
    };
    for (const hertz of [50, 100, 150])
      expect(at(out, hertz), String(hertz)).toBeLessThan(at(hum, hertz) - 20);
  });

  it("the night programme narrows the loudness range by half", () => {
    const before = measured(speech).loudnessRangeLu;
    const after = measured(through("night-programme", speech)).loudnessRangeLu;
    expect(before).toBeGreaterThan(10);
    expect(after).toBeLessThan(before / 2);
  });

  it("the ending rings for more than three seconds", () => {
    expect(chainTiming(preset("ring-out"), RATE).tail).toBeGreaterThan(3 * RATE);
  });

  it("the broadcast level is -23 LUFS", () => {
    expect(measured(through("broadcast-level", speech)).integratedLufs).toBeCloseTo(-23, 1);
  });
});
