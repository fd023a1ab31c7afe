import { describe, expect, it } from "vitest";
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { ClipStream } from "../../src/lib/core/render/clipStream";
import { recorded } from "./recorded";
import { amplitudeAt, dB, peakOf, rmsOf } from "./analysis";
import { ArraySource, clipOf, noise, RATE, sine, step, throughChain } from "./signals";

function impulse(frames: number, at = 0): Float32Array {
  const x = new Float32Array(frames);
  x[at] = 1;
  return x;
}

describe("delay", () => {
  it.each([1, 7.5, 350, 1234.5])(
    "echoes after %f ms to the sample, each by the feedback weaker",
    (timeMs) => {
      const frames = Math.round((timeMs / 1000) * RATE);
      const params = { timeMs, feedbackPercent: 50, dampingHz: 20000, mixPercent: 100 };
      const [out] = throughChain([step("delay", params)], impulse(frames * 3 + 10));
      const heard = [...out].flatMap((x, i) => (x === 0 ? [] : [[i, x]]));
      expect(heard.slice(0, 3)).toEqual([
        [frames, 1],
        [2 * frames, 0.5],
        [3 * frames, 0.25]
      ]);
    }
  );

  it("counts in beats: an eighth note at 90 BPM is a third of a second", () => {
    const params = { timing: "beats", beats: 0.5, tempo: 90, feedbackPercent: 0, mixPercent: 100 };
    const [out] = throughChain([step("delay", params)], impulse(RATE));
    expect(out.indexOf(1)).toBe(RATE / 3);
  });

  it("ping-pong begins at the left and changes sides", () => {
    const params = { timeMs: 10, feedbackPercent: 50, pingPong: true, dampingHz: 20000, mixPercent: 100 };
    const [l, r] = throughChain([step("delay", params)], impulse(4800));
    expect([l[480], r[480], l[960], r[960], l[1440], r[1440]]).toEqual([1, 0, 0, 0.5, 0.25, 0]);
  });

  it("damps what lies above the corner with every repetition: a one-pole low-pass", () => {
    const params = { timeMs: 100, feedbackPercent: 90, dampingHz: 2000, mixPercent: 100 };
    const [out] = throughChain(
      [step("delay", params)],
      sine(4000, -6, 4800).map((x, i) => (i < 4000 ? x : 0)),
      undefined
    );
    expect(peakOf(out.subarray(0, 4800))).toBe(0);
    const long = new Float32Array(RATE);
    long.set(sine(4000, -6, 4000));
    const [echoes] = throughChain([step("delay", params)], long);
    const level = (n: number) => amplitudeAt(echoes, 4000, RATE, n * 4800 + 500, n * 4800 + 3500);
    // |H| of y += (x - y)(1 - p), p = e^(-2π 2000 / 48000), at 4 kHz.
    const p = Math.exp((-2 * Math.PI * 2000) / RATE);
    const w = (2 * Math.PI * 4000) / RATE;
    const want = 0.9 * ((1 - p) / Math.sqrt(1 - 2 * p * Math.cos(w) + p * p));
    expect(Math.abs(dB(level(2) / level(1)) - dB(want))).toBeLessThan(0.1);
  });
});

/** Instantaneous frequency of a tone, Hz, from the angle between quadrature parts after mixing down; one value a `hop`. */
function frequencyTrack(x: Float32Array, hertz: number, hop: number): number[] {
  const window = 4 * hop;
  const phase = (at: number) => {
    let re = 0;
    let im = 0;
    for (let i = 0; i < window; i++) {
      const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / window);
      const angle = (2 * Math.PI * hertz * (at + i)) / RATE;
      re += w * x[at + i] * Math.cos(angle);
      im -= w * x[at + i] * Math.sin(angle);
    }
    return Math.atan2(im, re);
  };
  const out: number[] = [];
  for (let at = 0; at + window + hop <= x.length; at += hop) {
    const turn = phase(at + hop) - phase(at);
    const wrapped = turn - 2 * Math.PI * Math.round(turn / (2 * Math.PI));
    out.push(hertz + (wrapped * RATE) / (2 * Math.PI * hop));
  }
  return out;
}

describe("chorus and flanger", () => {
  it("the delay moves at the set rate and as deep as set: measured by the pitch of a sine", () => {
    const rateHz = 2;
    const depthMs = 3;
    const params = { voices: 1, delayMs: 20, depthMs, rateHz, spreadDegrees: 0, mixPercent: 100 };
    const [out] = throughChain([step("chorus", params)], sine(1000, -6, RATE * 3));
    const track = frequencyTrack(out.subarray(RATE / 10), 1000, 240);
    // d = depth sin(2π f t) changes the pitch by 1000 Hz × depth × 2π f at most.
    const want = 1000 * (depthMs / 1000) * 2 * Math.PI * rateHz;
    const most = Math.max(...track) - 1000;
    const least = 1000 - Math.min(...track);
    expect(Math.abs(most - want) / want).toBeLessThan(0.02);
    expect(Math.abs(least - want) / want).toBeLessThan(0.02);
    let crossings = 0;
    for (let i = 1; i < track.length; i++) if (track[i - 1] < 1000 && track[i] >= 1000) crossings++;
    const seconds = (track.length * 240) / RATE;
    expect(Math.abs(crossings / seconds - rateHz)).toBeLessThan(0.4);
  });

  it.each([
    [20, 44100, -100],
    [1000, 44100, -90],
    [6000, 44100, -84],
    [10000, 44100, -84],
    [10000, 48000, -84],
    [12000, 44100, -82]
  ])("reads between samples at %i Hz and a rate of %i Hz with an error below %f dB", (hertz, rate, most) => {
    for (const delayMs of [2.003, 2.01, 3.3333, 5.017]) {
      const params = { voices: 1, delayMs, depthMs: 0, mixPercent: 100 };
      const wave = sine(hertz, 0, rate / 2, rate);
      const [out] = throughChain([step("chorus", params)], wave, wave, rate);
      const ideal = sine(hertz, 0, rate / 2, rate, (-2 * Math.PI * hertz * delayMs) / 1000);
      const error = out.map((x, i) => x - ideal[i]);
      expect(dB(rmsOf(error, 2000) / rmsOf(ideal, 2000))).toBeLessThan(most);
    }
  });

  it.each([
    [3, 0.6, 10000],
    [3, 10, 6000],
    // Up to 1.26 samples a sample: the pitch falls until it turns over.
    [20, 10, 3000]
  ])("moves by %f ms at %f Hz as a delay of a sine's own formula does", (depthMs, rateHz, hertz) => {
    const params = { voices: 1, delayMs: 20, depthMs, rateHz, spreadDegrees: 0, mixPercent: 100 };
    const [out] = throughChain([step("chorus", params)], sine(hertz, 0, RATE));
    // Six frames of latency: the movement has gone on by them.
    const delay = (i: number) => 0.02 + (depthMs / 1000) * Math.sin((2 * Math.PI * rateHz * (i + 6)) / RATE);
    const ideal = out.map((_, i) => Math.sin(2 * Math.PI * hertz * (i / RATE - delay(i))));
    const error = out.map((x, i) => x - ideal[i]);
    expect(dB(rmsOf(error, 2000) / rmsOf(ideal, 2000))).toBeLessThan(-82);
  });

  it("is as loud with six voices as with one", () => {
    const wave = recorded("speech", RATE).left.subarray(0, RATE * 4);
    for (const voices of [1, 3, 6]) {
      const [out] = throughChain([step("chorus", { voices, mixPercent: 100 })], wave);
      expect(Math.abs(dB(rmsOf(out) / rmsOf(wave)))).toBeLessThan(1);
    }
  });

  it("the flanger's comb has its notches where half a period fits its delay", () => {
    const params = { delayMs: 1, depthMs: 0, feedbackPercent: 0, mixPercent: 50 };
    const [out] = throughChain([step("flanger", params)], impulse(4096));
    const at = (hertz: number) => {
      let re = 0;
      let im = 0;
      out.forEach((h, n) => {
        re += h * Math.cos((2 * Math.PI * hertz * n) / RATE);
        im -= h * Math.sin((2 * Math.PI * hertz * n) / RATE);
      });
      return Math.hypot(re, im);
    };
    expect(at(1000)).toBeCloseTo(1, 2);
    expect(dB(at(500))).toBeLessThan(-50);
    expect(dB(at(2500))).toBeLessThan(-50);
  });

  it("is no louder than what goes in", () => {
    const wave = noise(RATE, 0.5);
    const [out] = throughChain([step("chorus", { mixPercent: 100 })], wave);
    expect(rmsOf(out)).toBeLessThan(rmsOf(wave));
  });

  it.each(["chorus", "flanger"])(
    "%s swings with the recording: a clip trimmed at its start sounds as before",
    (effect) => {
      const wave = noise(RATE * 3, 0.5);
      const source = new ArraySource({ a: [wave, wave] });
      const heard = (offset: number, from: number) => {
        const clip = clipOf("a", RATE * 3, { steps: [{ id: "one", effect, params: { mixPercent: 60 } }] });
        const stream = new ClipStream(
          { ...clip, offset, length: RATE * 3 - offset },
          source,
          RATE,
          from - offset
        );
        const block = new StereoBlock();
        stream.read(block.left.ptr, block.right.ptr, BLOCK);
        const out = block.left.f32.slice(0, BLOCK);
        stream.release();
        block.release();
        return out;
      };
      const whole = heard(0, RATE * 2);
      for (const offset of [1, 777, 12345, 48000]) {
        const trimmed = heard(offset, RATE * 2);
        expect(peakOf(trimmed.map((x, i) => x - whole[i]))).toBeLessThan(2e-6);
      }
      expect(peakOf(whole)).toBeGreaterThan(0.1);
    }
  );
});
