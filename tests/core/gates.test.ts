import { describe, expect, it } from "vitest";
import { dB, peakOf } from "./analysis";
import { RATE, sine, step, throughChain } from "./signals";

describe("expander", () => {
  // Downward expander with a quadratic knee, the mirror of Giannoulis, Massberg, Reiss, JAES 60 (2012), equation 4.
  const curve = (x: number, t: number, ratio: number, knee: number, range: number) => {
    const under = x - t;
    if (2 * under > knee) return x;
    const gain =
      2 * under < -knee ? (ratio - 1) * under : (-(ratio - 1) * (under - knee / 2) ** 2) / (2 * knee);
    return x + Math.max(-range, gain);
  };

  it.each([-10, -36, -40, -43, -47, -55, -70])(
    "a 1 kHz sine at %i dBFS comes out on the static curve within 0.1 dB",
    (level) => {
      const params = { thresholdDb: -40, ratio: 2.5, kneeDb: 10, rangeDb: 25, releaseMs: 30, holdMs: 0 };
      const [out] = throughChain([step("expander", params)], sine(1000, level, RATE));
      expect(Math.abs(dB(peakOf(out, RATE / 2)) - curve(level, -40, 2.5, 10, 25))).toBeLessThan(0.1);
    }
  );

  it("gives back 63 % within its attack and takes 63 % within its release, to 5 %", () => {
    const attackMs = 20;
    const releaseMs = 100;
    const wave = new Float32Array(RATE * 2).fill(0.01);
    wave.fill(1, RATE / 2, RATE);
    const params = {
      thresholdDb: -20,
      ratio: 2,
      kneeDb: 0,
      rangeDb: 60,
      attackMs,
      releaseMs,
      holdMs: 0,
      lookAheadMs: 0
    };
    const [out] = throughChain([step("expander", params)], wave);
    const reduction = (i: number) => dB(out[i] / wave[i]);
    const full = reduction(RATE / 2 - 1);
    expect(full).toBeCloseTo(-20, 1);
    let opened = RATE / 2;
    while (reduction(opened) < full * Math.exp(-1)) opened++;
    expect(Math.abs((opened - RATE / 2) / RATE - attackMs / 1000)).toBeLessThan(0.05 * (attackMs / 1000));
    // The detector waits for the next half-wave and lets go; from where the gain moves on the release counts, once the level has arrived.
    let begin = RATE;
    while (reduction(begin) > -0.01) begin++;
    const settled = begin + Math.round(0.04 * RATE);
    const from = full - reduction(settled);
    let closed = settled;
    while (full - reduction(closed) < from * Math.exp(-1)) closed++;
    expect(Math.abs((closed - settled) / RATE - releaseMs / 1000)).toBeLessThan(0.05 * (releaseMs / 1000));
  });
});

describe("gate", () => {
  const speech = { thresholdDb: -40, hysteresisDb: 6, rangeDb: 60, attackMs: 1, holdMs: 50, releaseMs: 40 };

  it("passes what is above the threshold untouched and takes its range from what is below", () => {
    const [loud] = throughChain([step("gate", speech)], sine(500, -20, RATE));
    expect(dB(peakOf(loud, RATE / 2))).toBeCloseTo(-20, 2);
    const [quiet] = throughChain([step("gate", speech)], sine(500, -50, RATE));
    expect(dB(peakOf(quiet, RATE / 2))).toBeCloseTo(-110, 0);
  });

  it.each([0, 3, 6])(
    "opens and closes once on a decaying 60 Hz sine with %i dB of hysteresis: no chatter",
    (hysteresisDb) => {
      const wave = sine(60, 0, RATE * 3).map((x, i) => x * 10 ** (-i / RATE));
      const [out] = throughChain([step("gate", { ...speech, hysteresisDb, lookAheadMs: 0 })], wave);
      // Gain at the crests, one for each period.
      const gains: number[] = [];
      const period = RATE / 60;
      for (let k = 0; k + 1 < out.length / period; k++) {
        const [from, to] = [Math.round(k * period), Math.round((k + 1) * period)];
        gains.push(peakOf(out, from, to) / peakOf(wave, from, to));
      }
      const open = gains.map((g) => g > 0.5);
      const changes = open.filter((o, i) => i > 0 && o !== open[i - 1]).length;
      expect(changes).toBe(1);
      // Once it closes the gain falls and never rises again.
      const closing = open.indexOf(false, 3);
      for (let i = closing + 1; i < gains.length; i++)
        expect(gains[i]).toBeLessThanOrEqual(gains[i - 1] + 1e-9);
      // It closes when the crest has fallen to threshold less hysteresis: 20 dB a second from 0 dB, and then hold and detector.
      const at = (closing * period) / RATE;
      const want = (40 + hysteresisDb) / 20 + 0.05;
      expect(Math.abs(at - want)).toBeLessThan(0.06);
    }
  );

  it("opens before the sound with look-ahead, so that nothing of its beginning is lost", () => {
    const wave = new Float32Array(RATE);
    wave.set(sine(1000, -10, RATE / 2), RATE / 2);
    const [late] = throughChain([step("gate", { ...speech, lookAheadMs: 0 })], wave);
    const [early] = throughChain([step("gate", { ...speech, lookAheadMs: 10 })], wave);
    const first = (x: Float32Array) =>
      peakOf(x, RATE / 2, RATE / 2 + 24) / peakOf(wave, RATE / 2, RATE / 2 + 24);
    expect(first(early)).toBeGreaterThan(0.98);
    expect(first(late)).toBeLessThan(0.5);
  });
});
