import { NoiseStretch } from "../../src/lib/core/effects/noiseStretch";
import { describe, expect, it } from "vitest";
import {
  NoiseLearner,
  powerAtRate,
  profileFault,
  profileFromText,
  profileToText
} from "../../src/lib/core/effects/noiseProfile";
import { dB, logSpectralDistance, peakOf, pink, rmsOf, spectrumOf } from "./analysis";
import { recorded } from "./recorded";
import { eachBlock, noise, step, throughChain } from "./signals";

const RATE = 48000;
const speech = recorded("speech-pauses", RATE).left;
const lead = RATE; // a second of noise alone before the speech
const clean = new Float32Array(speech.length + lead);
clean.set(speech, lead);

/** Mean of the signal-to-noise ratio over frames of 20 ms of the utterance, pauses included, each held within -10 and 35 dB (J. H. L. Hansen, B. L. Pellom, ICSLP 1998). */
function segmentalSnr(x: Float32Array, reference: Float32Array): number {
  const n = Math.round(0.02 * RATE);
  const values: number[] = [];
  for (let at = lead; at + n <= x.length; at += n) {
    let error = 0;
    let power = 0;
    for (let i = at; i < at + n; i++) {
      error += (x[i] - reference[i]) ** 2;
      power += reference[i] ** 2;
    }
    values.push(Math.max(-10, Math.min(35, 10 * Math.log10(power / error))));
  }
  return values.reduce((a, b) => a + b, 0) / values.length;
}

/** How far single spots of the short-time spectrum (27 ms by 190 Hz) rise out of the mean of what is left of the noise, in dB, over the second of noise alone. */
function spikes(x: Float32Array): number {
  const n = 1024;
  const frames: Float64Array[] = [];
  for (let at = 9600; at + n < lead - 4000; at += n / 4) {
    const part = Float64Array.from(
      { length: n },
      (_, i) => x[at + i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n))
    );
    const { re, im } = spectrumOf(part);
    frames.push(Float64Array.from({ length: n / 2 }, (_, k) => re[k] ** 2 + im[k] ** 2));
  }
  let worst = -Infinity;
  for (let k = 6; k < n / 2 - 6; k++) {
    let mean = 0;
    for (const f of frames) for (let j = k - 4; j <= k + 4; j++) mean += f[j] / 9 / frames.length;
    for (let t = 0; t + 5 <= frames.length; t++) {
      let cell = 0;
      for (let i = t; i < t + 5; i++) for (let j = k - 2; j < k + 2; j++) cell += frames[i][j] / 20;
      worst = Math.max(worst, 10 * Math.log10(cell / mean));
    }
  }
  return worst;
}

describe("noise reduction", () => {
  const hiss = pink(noise(clean.length, 1, 21), rmsOf(speech) * 10 ** (-15 / 20));
  const noisy = clean.map((x, i) => x + hiss[i]);
  const profile = (() => {
    const learner = new NoiseLearner(RATE);
    const part = hiss.subarray(0, Math.round(0.9 * RATE));
    eachBlock(part, part, 512, (l, r, n) => learner.push(l, r, n));
    const learnt = learner.finish();
    if (!learnt) throw new Error("nothing learnt");
    learner.release();
    return profileToText(learnt);
  })();
  const floorOf = (x: Float32Array) => dB(rmsOf(x, 9600, 40000));

  it.each([
    ["with a profile learnt from noise alone", { source: "carried", profile }],
    ["that it finds by itself", {}]
  ])("on read speech with pink noise at 15 dB SNR, %s", (_, params) => {
    const [out] = throughChain([step("noise-reduction", params)], noisy);
    expect(floorOf(out) - floorOf(noisy)).toBeLessThan(-12);
    expect(segmentalSnr(out, clean) - segmentalSnr(noisy, clean)).toBeGreaterThan(4);
    expect(spikes(out)).toBeLessThan(10);
  });

  // ffmpeg's afftdn 5.1.9 on the same sounds, the best of reductions of 12 to 36 dB and floors at the noise's level ± 6 dB, measured once.
  it.each([
    [15, 5.01],
    [20, 3.73]
  ])(
    "on white noise at %i dB SNR its spectrum is as near to the clean one as afftdn's at its best",
    (snr, afftdn) => {
      const level = rmsOf(speech) * 10 ** (-snr / 20);
      const white = noise(clean.length, Math.sqrt(3) * level, 81);
      const [out] = throughChain(
        [step("noise-reduction", { reductionDb: 30, sensitivityDb: 2.5 })],
        clean.map((x, i) => x + white[i])
      );
      expect(logSpectralDistance(out, clean)).toBeLessThan(afftdn);
    }
  );

  it("takes the noise down by the set amount, no more", () => {
    for (const reductionDb of [6, 12]) {
      const [out] = throughChain(
        [step("noise-reduction", { source: "carried", profile, reductionDb })],
        noisy
      );
      expect(Math.abs(floorOf(out) - floorOf(noisy) + reductionDb)).toBeLessThan(1);
    }
  });

  it("passes the sound unchanged when there is nothing to learn or to reduce", () => {
    const [out] = throughChain([step("noise-reduction", { reductionDb: 0 })], noisy);
    expect(dB(rmsOf(out.map((x, i) => x - noisy[i])) / rmsOf(noisy))).toBeLessThan(-100);
    const silence = new Float32Array(RATE / 2);
    expect(throughChain([step("noise-reduction")], silence)[0]).toEqual(silence);
  });

  it("writes and reads profiles, at another rate too, and names the fault of a text that is none", () => {
    const read = profileFromText(profile);
    expect(read.sampleRate).toBe(RATE);
    expect(profileToText(read)).toBe(profile);
    expect(powerAtRate(read, 44100).length).toBe(1025);
    expect(profileFault("noise/1 48000 AAAA")).toContain("noise profile");
    expect(profileFault("noise/1 48000 AAAAAAAAAAAA")).toBe("must hold 1025 bins for 48000 Hz");
  });
});

describe("click repair", () => {
  const rate = 44100;
  // The speech is band-limited by its origin at 16 kHz; a little noise fills the top, as any converter does.
  const top = noise(rate * 8, 1e-4, 77);
  const voice = recorded("speech", rate).left.map((x, i) => x + top[i]);

  /** A click's samples, the largest near 1. */
  const shapes: Readonly<Record<string, (i: number, size: number) => number>> = {
    alternating: (i, size) => (1 - i / (size + 1)) * (i % 2 ? -0.7 : 1),
    "dying away": (i, size) => Math.exp((-3 * i) / size),
    rounded: (i, size) => Math.sin((Math.PI * (i + 1)) / (size + 1))
  };

  function clicked(count: number, shape: string, least: number, most: number) {
    const x = voice.slice();
    const random = noise(count * 4, 1, 7);
    const clicks = Array.from({ length: count }, (_, k) => {
      const r = (i: number) => Math.abs(random[4 * k + i]);
      const at = Math.round(2000 + (k * (voice.length - 4000)) / count + r(0) * 500);
      const size = least + Math.floor(r(1) * (most - least + 1));
      const peak = (0.3 + 0.6 * r(2)) * (random[4 * k + 3] < 0 ? -1 : 1);
      for (let i = 0; i < size; i++) x[at + i] += peak * shapes[shape](i, size);
      return { at, size, peak: Math.abs(peak) };
    });
    return { x, clicks };
  }

  it.each(
    Object.keys(shapes).flatMap((shape) => [
      [shape, 1, 4, 99],
      [shape, 5, 8, 97],
      [shape, 9, 14, 90]
    ])
  )(
    "takes clicks that are %s, of %i to %i samples, out of recorded speech: %i % are under -40 dB",
    (...row) => {
      const [shape, least, most, percent] = row as [string, number, number, number];
      const { x, clicks } = clicked(150, shape, least, most);
      const [out] = throughChain([step("click-repair")], x, x, rate);
      const gone = clicks.filter(({ at, size, peak }) => {
        let left = 0;
        for (let i = at - 8; i < at + size + 8; i++) left = Math.max(left, Math.abs(out[i] - voice[i]));
        return left < 0.01 * peak;
      });
      expect(gone.length / clicks.length).toBeGreaterThanOrEqual(percent / 100);
    }
  );

  it("touches less than 0.1 % of clean samples", () => {
    const [out] = throughChain([step("click-repair")], voice, voice, rate);
    const touched = out.filter((x, i) => x !== voice[i]).length / voice.length;
    expect(touched).toBeLessThan(0.001);
  });

  it.each(["speech", "speech-pauses", "guitar", "drum-snare-hard", "drum-tom-mid-hard", "drum-bass-hard"])(
    "touches less than 0.1 % of %s at 44.1 and 48 kHz, whatever rate it was recorded at",
    (name) => {
      for (const rate of [44100, 48000]) {
        const clean = recorded(name, rate).left;
        const [out] = throughChain([step("click-repair")], clean, clean, rate);
        expect(out.filter((x, i) => x !== clean[i]).length / clean.length).toBeLessThan(0.001);
      }
    }
  );

  it.each([0, 1e-6, 1e-3])(
    "takes clicks of any shape out of noise of amplitude %f, and out of silence",
    (amplitude) => {
      const clean = noise(rate, amplitude, 5);
      for (const shape of Object.values(shapes)) {
        const x = clean.slice();
        for (let k = 1; k < 9; k++) for (let i = 0; i < k; i++) x[4800 * k + i] += 0.5 * shape(i, k);
        const [out] = throughChain([step("click-repair")], x, x, rate);
        expect(peakOf(out.map((y, i) => y - clean[i]))).toBeLessThan(0.005);
      }
    }
  );

  it("never puts in anything louder than the click and the sound around it", () => {
    const { x, clicks } = clicked(150, "dying away", 15, 60);
    const [out] = throughChain([step("click-repair")], x, x, rate);
    for (const { at, size } of clicks)
      expect(peakOf(out.subarray(at, at + size))).toBeLessThanOrEqual(
        1.0001 * peakOf(x.subarray(at - 130, at + size + 130))
      );
  });

  it("leaves longer faults than it is told to alone", () => {
    const x = voice.slice();
    for (let i = 0; i < 400; i++) x[100000 + i] += 0.5 * Math.sin(i);
    const [out] = throughChain([step("click-repair", { longestMs: 1 })], x, x, rate);
    let worst = 0;
    for (let i = 100060; i < 100340; i++) worst = Math.max(worst, Math.abs(out[i] - x[i]));
    expect(worst).toBe(0);
  });
});

describe("a stretch from which a noise is learnt", () => {
  function doubtOf(x: Float32Array): string | undefined {
    const stretch = new NoiseStretch(RATE);
    eachBlock(x, x, 512, (l, r, n) => stretch.push(l, r, n));
    const doubt = stretch.doubt();
    stretch.release();
    return doubt;
  }

  it("is taken without a word when it is steady, loud or quiet", () => {
    for (const level of [0.3, 0.001]) expect(doubtOf(noise(RATE, level))).toBeUndefined();
    expect(doubtOf(noise(0.3 * RATE, 0.01))).toBeUndefined();
  });

  it("is doubted when it is short, or when there is speech in it", () => {
    expect(doubtOf(noise(0.2 * RATE, 0.01))).toContain("0.20 s");
    const speech = recorded("speech", RATE).left.slice(0, 3 * RATE);
    expect(doubtOf(speech)).toContain("speech");
    const noisy = noise(3 * RATE, 0.003).map((v, i) => v + speech[i] * 0.5);
    expect(doubtOf(noisy)).toContain("speech");
  });
});
