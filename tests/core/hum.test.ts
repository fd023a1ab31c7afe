import { describe, expect, it } from "vitest";
import { BiquadCascade } from "../../src/lib/core/audio/biquadCascade";
import { responseDb } from "../../src/lib/core/audio/biquadDesign";
import { HumFinder } from "../../src/lib/core/audio/humFinder";
import { humRemoval, humSections } from "../../src/lib/core/effects/humRemoval";
import { completeParams } from "../../src/lib/core/effects/registry";
import { amplitudeAt, dB, pink, rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { eachBlock, noise, RATE, step, throughChain } from "./signals";

const RATES = [44100, 48000, 8000];

function found(left: Float32Array, right = left, rate = RATE): number {
  const finder = new HumFinder(rate, left.length);
  eachBlock(left, right, 512, (l, r, n) => finder.push(l, r, n));
  const hertz = finder.finish();
  finder.release();
  return hertz;
}

/** A sum of sines, each of a frequency in Hz, an amplitude and a time in which it decays to 1/e, struck anew every `period` seconds. */
function tones(
  parts: readonly (readonly [hertz: number, amplitude: number, decay?: number])[],
  seconds: number,
  rate = RATE,
  period = seconds
): Float32Array {
  const out = new Float32Array(seconds * rate);
  for (const [hertz, amplitude, decay = Infinity] of parts)
    for (let i = 0; i < out.length; i++) {
      const t = (i % (period * rate)) / rate;
      out[i] += amplitude * Math.exp(-t / decay) * Math.sin(2 * Math.PI * hertz * t + hertz);
    }
  return out;
}

const harmonics = (hertz: number, amplitude: number, count: number) =>
  Array.from({ length: count }, (_, k) => [(k + 1) * hertz, amplitude / (k + 1)] as const);

const plus = (a: Float32Array, b: Float32Array) => a.map((x, i) => x + b[i % b.length]);

/** The recorded speech was made beside 60 Hz mains: without that line, and in full. */
function speechWithoutHum(rate: number): Float32Array {
  const { left } = recorded("speech", rate);
  return throughChain([step("hum-removal", { mains: "60", widthHz: 4 })], left, left, rate)[0];
}

describe("hum removal", () => {
  const speech = speechWithoutHum(RATE);

  it.each([
    ["50 Hz", 50, { mains: "50" }],
    ["60 Hz", 60, { mains: "60" }],
    ["49.95 Hz, found by itself", 49.95, { mains: "find" }],
    ["60.02 Hz, found by itself", 60.02, { mains: "find" }]
  ])("takes the lines of %s hum under speech down by 40 dB or more", (_, f0, params) => {
    const hum = tones(harmonics(f0, 0.04, 12), 7);
    const source = plus(speech.subarray(0, hum.length), hum);
    const fundamental = params.mains === "find" ? found(source) : f0;
    const cascade = new BiquadCascade(humSections(completeParams(humRemoval, {}), fundamental, RATE));
    // The filter is linear: what it makes of the hum alone is what stays of it.
    const rest = new Float32Array(hum.length);
    eachBlock(hum, hum, 512, (l, r, n, at, block) => {
      cascade.process(l, r, n);
      rest.set(block.left.f32.subarray(0, n), at);
    });
    cascade.release();
    for (const h of [1, 2, 3, 6, 12]) {
      const level = (x: Float32Array) => amplitudeAt(x, f0 * h, RATE, 2 * RATE, 4 * RATE);
      expect(dB(level(rest) / level(hum)), `line ${h}`).toBeLessThan(-40);
    }
    const [out] = throughChain([step("hum-removal", params)], source);
    expect(rmsOf(out, RATE)).toBeLessThan(rmsOf(source, RATE));
  });

  it("leaves all that lies 3 Hz and more beside a line within 0.5 dB", () => {
    const sections = humSections(completeParams(humRemoval, {}), 50, RATE);
    for (let hertz = 20; hertz < 20000; hertz += 0.5) {
      const beside = Math.abs(hertz - 50 * Math.min(16, Math.max(1, Math.round(hertz / 50))));
      if (beside >= 3)
        expect(Math.abs(responseDb(sections, (2 * Math.PI * hertz) / RATE)), `${hertz} Hz`).toBeLessThan(0.5);
    }
  });
});

describe("hum found by itself", () => {
  it.each([...RATES, 96000])(
    "under speech at %i Hz: mains' lines and rectifiers', within 0.015 Hz",
    (rate) => {
      const speech = speechWithoutHum(rate).subarray(0, 7 * rate);
      for (const f0 of rate > 48000 ? [50] : [49.6, 50, 50.3, 59.7, 60.02]) {
        const mains = plus(speech, tones(harmonics(f0, 0.02, 10), 7, rate));
        expect(Math.abs(found(mains, mains, rate) - f0), `${f0} Hz`).toBeLessThan(0.015);
        const rectified = plus(speech, tones(harmonics(2 * f0, 0.04, 5), 7, rate));
        expect(Math.abs(found(rectified, rectified, rate) - f0), `2 × ${f0} Hz`).toBeLessThan(0.015);
      }
    }
  );

  it("down to 25 dB below speech, for the mains' own line", () => {
    const speech = speechWithoutHum(RATE).subarray(0, 7 * RATE);
    for (const f0 of [49.9, 50.1, 59.95, 60.05]) {
      const hum = tones([[f0, 1]], 7);
      const amount = (rmsOf(speech) / rmsOf(hum)) * 10 ** (-25 / 20);
      expect(
        Math.abs(
          found(
            plus(
              speech,
              hum.map((x) => x * amount)
            )
          ) - f0
        ),
        `${f0} Hz`
      ).toBeLessThan(0.05);
    }
  });

  it("in recordings that have it: made in a country of 60 Hz", () => {
    const speech = recorded("speech", RATE).left;
    expect(Math.abs(found(speech) - 60)).toBeLessThan(0.1);
    const { left, right, sampleRate } = recorded("guitar");
    expect(Math.abs(found(left, right, sampleRate) - 60)).toBeLessThan(0.1);
    const [out] = throughChain([step("hum-removal")], left, right, sampleRate);
    const line = (x: Float32Array) => amplitudeAt(x, 60, sampleRate, sampleRate, 3 * sampleRate);
    expect(dB(line(out) / line(left))).toBeLessThan(-20);
    expect(Math.abs(dB(rmsOf(out) / rmsOf(left)))).toBeLessThan(0.2);
  });

  it("between silences, as edits leave them", () => {
    const hum = tones(harmonics(50, 0.01, 5), 6);
    const edited = new Float32Array(hum.length * 2);
    edited.set(plus(hum, noise(hum.length, 0.001)), hum.length / 2);
    expect(Math.abs(found(edited) - 50)).toBeLessThan(0.01);
  });

  const recordings = ["speech", "speech-pauses", "guitar"].flatMap((name) =>
    [44100, 8000].map((rate) => [name, rate] as const)
  );
  it.each(recordings)(
    "none in %s at %i Hz once it is taken out; the sound is then left alone",
    (name, rate) => {
      const { left, right } = recorded(name, rate);
      const [l, r] = throughChain([step("hum-removal", { mains: "60", widthHz: 4 })], left, right, rate);
      // What the filter takes at its start to settle is no part of this.
      const [a, b] = [l.subarray(rate / 2), r.subarray(rate / 2)];
      expect(found(a, b, rate)).toBe(0);
      expect(throughChain([step("hum-removal")], a, b, rate)).toEqual([a, b]);
    }
  );

  it.each(RATES)("none in drums struck twice a second, at %i Hz", (rate) => {
    for (const name of ["drum-snare-hard", "drum-tom-mid-hard", "drum-bass-hard"] as const) {
      const hit = recorded(name, rate).left;
      const loop = new Float32Array(8 * rate);
      for (let at = 0; at + hit.length < loop.length; at += rate / 2)
        loop.set(plus(loop.slice(at, at + hit.length), hit), at);
      expect(found(loop, loop, rate), name).toBe(0);
    }
    for (const hertz of [50, 60, 100])
      for (const decay of [0.08, 0.15, 0.3])
        expect(found(tones([[hertz, 0.7, decay]], 8, rate, 0.5), undefined, rate), `${hertz} Hz`).toBe(0);
  });

  it.each([44100, 8000])("none in notes of the tempered scale held for seconds, at %i Hz", (rate) => {
    for (let note = 24; note < 72; note++) {
      const hertz = 440 * 2 ** ((note - 69) / 12);
      expect(found(tones(harmonics(hertz, 0.1, 10), 3, rate), undefined, rate), `note ${note}`).toBe(0);
    }
  });

  it("says what was found", () => {
    expect(humRemoval.found?.({ hertz: 59.9861 })).toBe("Hum of 59.99 Hz found.");
    expect(humRemoval.found?.({ hertz: 0 })).toBe("No hum found: nothing is cut.");
  });

  it("none in noise, in silence, and in less than a second", () => {
    const white = noise(8 * RATE, 0.3);
    expect(found(white)).toBe(0);
    expect(found(pink(white, 0.1))).toBe(0);
    expect(found(new Float32Array(4 * RATE))).toBe(0);
    expect(found(tones(harmonics(50, 0.1, 5), 0.5))).toBe(0);
  });
});
