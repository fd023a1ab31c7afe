// The ear guard: nothing jumps after a change, nothing else is touched. And what is heard instead of the document.
import { describe, expect, it } from "vitest";
import { EarGuard, GUARD_RISE_LU } from "../../src/lib/core/monitor/earGuard";
import { Monitor } from "../../src/lib/core/monitor/monitor";
import { momentaryOf } from "./momentary";
import { recorded } from "./recorded";
import { eachBlock, noise, RATE, same, sine } from "./signals";

/** Sound after the guard, told of a change at some frames. */
function guarded(
  x: Float32Array,
  changes: readonly number[],
  step?: number
): { out: Float32Array; eased: number[] } {
  const guard = new EarGuard(RATE, step);
  const out = x.slice();
  const eased: number[] = [];
  eachBlock(x, x, 256, (l, r, n, at, block) => {
    if (changes.includes(at)) guard.changed();
    guard.process(l, r, n);
    out.set(block.left.f32.subarray(0, n), at);
    eased.push(guard.easedDb);
  });
  guard.release();
  return { out, eased };
}

const joined = (...parts: Float32Array[]) => {
  const out = new Float32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
};
/** Two sounds, the second coming in over 15 ms as a switch does. */
const switched = (before: Float32Array, after: Float32Array) => {
  const edge = 0.015 * RATE;
  const faded = after.map((v, i) => v * Math.min(1, i / edge));
  return joined(before, faded);
};
const BLOCKS = (seconds: number) => Math.round((seconds * RATE) / 256) * 256;
const AT = BLOCKS(4);

describe("the ear guard", () => {
  it("leaves every sample as it is where nothing is changed, and where nothing would jump", () => {
    const speech = recorded("speech-pauses", RATE).left.slice(0, 8 * RATE);
    expect(same(guarded(speech, []).out, speech)).toBe(true);
    const tone = joined(sine(997, -30, AT), sine(997, -25, BLOCKS(4)));
    expect(same(guarded(tone, [AT]).out, tone)).toBe(true);
    // Quieter is never turned down.
    const down = joined(sine(997, -20, AT), sine(997, -40, BLOCKS(4)));
    expect(same(guarded(down, [AT]).out, down)).toBe(true);
  });

  it.each([
    [-50, -16],
    [-40, -20],
    [-30, -10]
  ])(
    "lets a switch from %d to %d dBFS rise by 6 LU at once, then by 6 LU a second, all the way",
    (low, high) => {
      const seconds = (high - low) / GUARD_RISE_LU + 2;
      const x = switched(sine(997, low, AT), sine(997, high, BLOCKS(seconds)));
      const { out, eased } = guarded(x, [AT]);
      // Peaks of 100 ms: of a sine they follow its level at once.
      const level = (second: number) => {
        const from = AT + Math.round(second * RATE);
        return (
          20 * Math.log10(out.subarray(from, from + RATE / 10).reduce((m, v) => Math.max(m, Math.abs(v)), 0))
        );
      };
      expect(level(0)).toBeLessThan(low + 6 + 1.2);
      expect(level(0)).toBeGreaterThan(low + 5);
      for (let t = 0; t + 1 < seconds; t += 0.5) {
        const rise = level(t + 0.5) - level(t);
        expect(rise).toBeLessThanOrEqual(GUARD_RISE_LU * 0.5 + 0.6);
      }
      expect(level(seconds - 0.5)).toBeCloseTo(high, 1);
      expect(eased.at(-1)).toBe(0);
    }
  );

  it("keeps the momentary loudness of speech from jumping", () => {
    const speech = recorded("speech", RATE).left.slice(0, 4 * RATE);
    const quiet = speech.slice(0, AT).map((v) => v * 0.03);
    const x = switched(quiet, speech);
    const { out } = guarded(x, [AT]);
    const before = Math.max(...momentaryOf(out.subarray(0, AT)));
    const first = Math.max(...momentaryOf(out.subarray(AT, AT + 0.4 * RATE)));
    // 30 dB without it.
    expect(Math.max(...momentaryOf(x.subarray(AT, AT + 0.4 * RATE))) - before).toBeGreaterThan(15);
    expect(first - before).toBeLessThan(6 + 1.5);
  });

  it("lets a switch between sounds of one loudness through as it is", () => {
    const speech = recorded("speech-pauses", RATE).left;
    const x = switched(speech.slice(0, AT), speech.slice(2 * RATE, 2 * RATE + BLOCKS(4)));
    const { out, eased } = guarded(x, [AT]);
    expect(Math.min(...eased)).toBe(0);
    expect(same(out, x)).toBe(true);
  });

  it("waits through a pause after the switch", () => {
    const x = joined(sine(997, -50, AT), new Float32Array(BLOCKS(6)), sine(997, -16, BLOCKS(1)));
    const { out } = guarded(x, [AT]);
    const from = AT + BLOCKS(6);
    const first = out.subarray(from + 256, from + 4800).reduce((m, v) => Math.max(m, Math.abs(v)), 0);
    expect(20 * Math.log10(first)).toBeLessThan(-50 + 6 + 1);
  });

  it("makes no click: down in falls too short for ears, up in small steps", () => {
    const x = switched(sine(200, -50, AT), sine(200, -16, BLOCKS(4)));
    const { out } = guarded(x, [AT]);
    let most = 0;
    for (let i = AT; i < out.length; i++) most = Math.max(most, Math.abs(out[i] - out[i - 1]));
    // The steepest of the loud sine itself.
    expect(most).toBeLessThan(10 ** (-16 / 20) * ((2 * Math.PI * 200) / RATE) * 1.05);
  });

  it("can be set, and switched off", () => {
    const x = switched(sine(997, -50, AT), sine(997, -16, BLOCKS(1)));
    const at = (step: number) => {
      const { out } = guarded(x, [AT], step);
      return 20 * Math.log10(out.subarray(AT, AT + 4800).reduce((m, v) => Math.max(m, Math.abs(v)), 0));
    };
    expect(at(12) - at(6)).toBeCloseTo(6, 0);
    expect(same(guarded(x, [AT], Infinity).out, x)).toBe(true);
  });
});

describe("the monitor", () => {
  it("has a level of its own, reached without a click", () => {
    const monitor = new Monitor(RATE);
    const x = noise(4 * 512, 0.5);
    const out = x.slice();
    eachBlock(x, x, 512, (l, r, n, at, block) => {
      if (at === 512) monitor.set({ gainDb: -20, guardLu: 6 });
      monitor.process(l, r, n);
      out.set(block.left.f32.subarray(0, n), at);
    });
    monitor.release();
    expect(same(out.subarray(0, 512), x.subarray(0, 512))).toBe(true);
    for (let i = 1024; i < out.length; i++) expect(out[i]).toBeCloseTo(x[i] * 0.1, 6);
    for (let i = 512; i < 1024; i++) expect(Math.abs(out[i])).toBeLessThanOrEqual(Math.abs(x[i]) + 1e-7);
  });
});
