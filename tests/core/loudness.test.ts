import { describe, expect, it } from "vitest";
import { channelWeights } from "../../src/lib/core/measure/channelWeights";
import { Meter } from "../../src/lib/core/measure/meter";
import { Buffer } from "../../src/lib/core/kernels/memory";
import { eachBlock, noise, sine, RATE } from "./signals";

interface Part {
  /** Level in dBFS of each channel. */
  readonly db: readonly number[];
  readonly seconds: number;
}

/** Measures a 1000 Hz sine (or another) in parts of given levels, phase running on. */
function measure(parts: Part[], hertz = 1000, rate = RATE) {
  const channels = parts[0].db.length;
  const meter = new Meter(rate, { weights: channelWeights(channels) });
  const buffers = parts[0].db.map(() => new Buffer(4800 * 4));
  let at = 0;
  for (const { db, seconds } of parts) {
    for (let left = Math.round(seconds * rate); left > 0;) {
      const n = Math.min(4800, left);
      buffers.forEach((b, c) => {
        const phase = (2 * Math.PI * hertz * at) / rate;
        b.f32.set(sine(hertz, db[c], n, rate, phase));
      });
      meter.pushChannels(
        buffers.map((b) => b.ptr),
        n
      );
      left -= n;
      at += n;
    }
  }
  const result = meter.result();
  meter.release();
  for (const b of buffers) b.release();
  return result;
}

describe("loudness", () => {
  it("reads -3.01 LKFS for 997 Hz at 0 dBFS in one channel (ITU-R BS.1770-5, annex 1)", () => {
    expect(measure([{ db: [0], seconds: 20 }], 997).integratedLufs).toBeCloseTo(-3.01, 2);
  });

  /** Tones from 100 Hz to 0.45 of a rate, alike at every rate at which they are made. */
  function tones(top: number, rate: number): Float32Array {
    const out = new Float32Array(rate * 4);
    const hertz = Array.from({ length: 40 }, (_, i) => 100 * ((0.45 * top) / 100) ** (i / 39));
    hertz.forEach((f, i) => {
      for (let n = 0; n < out.length; n++) out[n] += 0.01 * Math.sin((2 * Math.PI * f * n) / rate + i * i);
    });
    return out;
  }
  function integratedOf(x: Float32Array, rate: number): number {
    const meter = new Meter(rate);
    eachBlock(x, x, 480, (l, r, n) => meter.push(l, r, n));
    const { integratedLufs } = meter.loudness();
    meter.release();
    return integratedLufs;
  }

  it.each([8000, 11025, 16000, 22050, 24000, 32000, 44100, 88200, 96000, 192000])(
    "reads a wide sound at %i Hz within 0.03 LU of what it reads at 48 kHz",
    (rate) => {
      const top = Math.min(rate, 48000);
      const wanted = integratedOf(tones(top, 48000), 48000);
      expect(Math.abs(integratedOf(tones(top, rate), rate) - wanted)).toBeLessThan(0.03);
      // The upper end alone: half an octave below 0.45 of the rate.
      const high = (at: number) =>
        Float32Array.from({ length: at * 2 }, (_, n) => 0.1 * Math.sin((2 * Math.PI * 0.4 * top * n) / at));
      expect(Math.abs(integratedOf(high(rate), rate) - integratedOf(high(48000), 48000))).toBeLessThan(0.03);
    }
  );

  it.each([44100, 96000, 192000])("reads the same at %i Hz", (rate) => {
    expect(measure([{ db: [0], seconds: 5 }], 997, rate).integratedLufs).toBeCloseTo(-3.01, 1);
  });

  // EBU Tech 3341 (2016), table 1, "minimum requirements test signals". Tolerance ±0.1 LU.
  const both = (db: number, seconds: number): Part => ({ db: [db, db], seconds });
  const cases: [string, Part[], number][] = [
    ["1", [both(-23, 20)], -23],
    ["2", [both(-33, 20)], -33],
    ["3", [both(-36, 10), both(-23, 60), both(-36, 10)], -23],
    ["4", [both(-72, 10), both(-36, 10), both(-23, 60), both(-36, 10), both(-72, 10)], -23],
    ["5", [both(-26, 20), both(-20, 20.1), both(-26, 20)], -23],
    ["6", [{ db: [-28, -28, -24, -30, -30], seconds: 20 }], -23]
  ];
  it.each(cases)("case %s of EBU Tech 3341", (_, parts, expected) => {
    const result = measure(parts);
    expect(Math.abs(result.integratedLufs - expected)).toBeLessThanOrEqual(0.1);
    if (parts.length === 1) {
      expect(Math.abs(result.momentaryMaxLufs - expected)).toBeLessThanOrEqual(0.1);
      expect(Math.abs(result.shortTermMaxLufs - expected)).toBeLessThanOrEqual(0.1);
    }
  });

  // EBU Tech 3342 (2016), table 1, cases 1 to 4. Tolerance ±1 LU.
  const ranges: [string, Part[], number][] = [
    ["1", [both(-20, 20), both(-30, 20)], 10],
    ["2", [both(-20, 20), both(-15, 20)], 5],
    ["3", [both(-40, 20), both(-20, 20)], 20],
    ["4", [both(-50, 20), both(-35, 20), both(-20, 20), both(-35, 20), both(-50, 20)], 15]
  ];
  it.each(ranges)("case %s of EBU Tech 3342", (_, parts, expected) => {
    expect(Math.abs(measure(parts).loudnessRangeLu - expected)).toBeLessThanOrEqual(1);
  });

  it("finds the true peak between samples: 12 kHz at 45°, -6.0 dBTP +0.2/-0.4 (EBU Tech 3341, case 15)", () => {
    const meter = new Meter(RATE);
    const wave = sine(RATE / 4, -6.02, 48000, RATE, Math.PI / 4);
    const left = new Buffer(wave.length * 4);
    left.f32.set(wave);
    meter.push(left.ptr, left.ptr, wave.length);
    const { truePeakDbtp, samplePeakDbfs } = meter.result();
    expect(truePeakDbtp).toBeLessThan(-5.8);
    expect(truePeakDbtp).toBeGreaterThan(-6.4);
    expect(samplePeakDbfs).toBeCloseTo(-9.03, 1);
    left.release();
  });

  it("does not depend on how time is cut into blocks", () => {
    const wave = noise(RATE * 4);
    const buffer = new Buffer(wave.length * 4);
    buffer.f32.set(wave);
    const results = [1, 63, 512, 8192].map((size) => {
      const meter = new Meter(RATE);
      for (let at = 0; at < wave.length; at += size)
        meter.push(buffer.ptr + at * 4, buffer.ptr + at * 4, Math.min(size, wave.length - at));
      return meter.result();
    });
    for (const result of results) {
      expect(result.truePeakDbtp).toBe(results[0].truePeakDbtp);
      expect(result.integratedLufs).toBeCloseTo(results[0].integratedLufs, 9);
    }
    buffer.release();
  });

  it("reads silence as minus infinity", () => {
    const result = measure([both(-Infinity, 4)]);
    expect(result.integratedLufs).toBe(-Infinity);
    expect(result.truePeakDbtp).toBe(-Infinity);
    expect(result.rmsDbfs).toBe(-Infinity);
    expect(result.loudnessRangeLu).toBe(0);
  });

  it("reads a full-scale sine as -3.01 dB RMS and 0 dB peak", () => {
    const result = measure([{ db: [0, 0], seconds: 2 }], 1000);
    expect(result.rmsDbfs).toBeCloseTo(-3.01, 2);
    expect(result.samplePeakDbfs).toBeCloseTo(0, 3);
  });
});
