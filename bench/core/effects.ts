import { writeFileSync } from "node:fs";
import path from "node:path";
import { BLOCK } from "../../src/lib/core/audio/block";
import { Chain, type StepSpec } from "../../src/lib/core/effects/chain";
import type { Params } from "../../src/lib/core/effects/description";
import { learnAll } from "../../src/lib/core/effects/learning";
import { NoiseLearner, profileToText } from "../../src/lib/core/effects/noiseProfile";
import type { SoundStream } from "../../src/lib/core/audio/soundStream";
import { kernels } from "../../src/lib/core/kernels/instance";
import { wavHeader } from "../../src/lib/core/formats/wavWriter";
import { chainOnSilence, chainTime, compare, filter } from "./pairs";
import { folder, FRAMES, RATE, sound } from "./setup";

/** A fresh chain over all of the sound. */
function wholeTime(make: () => Chain): number {
  const chain = make();
  const seconds = chainTime(chain, sound, FRAMES);
  chain.release();
  return seconds;
}

function effect(
  name: string,
  id: string,
  params: Params,
  reference: string,
  f: string,
  least: number,
  more: readonly string[] = []
): void {
  const steps: StepSpec[] = [{ effect: id, on: true, params }];
  const make = () => new Chain(steps, RATE);
  compare({ name, ours: () => wholeTime(make), theirs: filter(f, more), least, reference });
  chainOnSilence(name, make);
}

/** The bench's sound, from a frame on. */
function soundFrom(from: number): SoundStream {
  let at = from;
  return {
    needed: () => [],
    read(l, r, n) {
      const m = Math.max(0, Math.min(n, FRAMES - at));
      kernels.clear(l, n);
      kernels.clear(r, n);
      kernels.copy(l, sound.left.ptr + at * 4, m);
      kernels.copy(r, sound.right.ptr + at * 4, m);
      at += n;
    },
    release: () => undefined
  };
}

/** An effect that hears all of its sound first: what that takes counts too. */
function learningEffect(
  name: string,
  id: string,
  reference: string,
  f: string,
  least: number,
  params: Params = {}
): void {
  const steps: StepSpec[] = [{ effect: id, on: true, params }];
  const place = { frames: FRAMES, sound: () => undefined };
  const ours = () => {
    const begin = performance.now();
    const learnt = learnAll({ ...place, steps, sampleRate: RATE, open: soundFrom });
    const seconds = (performance.now() - begin) / 1000;
    return seconds + wholeTime(() => new Chain(steps, RATE, { ...place, position: 0, learnt }));
  };
  compare({ name, ours, theirs: filter(f), least, reference });
}

function decayingNoise(seconds: number): Float32Array {
  const samples = new Float32Array(seconds * RATE * 2);
  let seed = 9;
  for (let i = 0; i < samples.length; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
    samples[i] = (seed / 2 ** 31) * Math.exp((-3.5 * i) / samples.length) * 0.01;
  }
  return samples;
}

/** A stereo impulse response as a WAV file. */
function impulseFile(seconds: number): string {
  const file = path.join(folder, `impulse-${seconds}.wav`);
  const header = wavHeader("float32", 2, RATE, seconds * RATE);
  writeFileSync(file, Buffer.concat([header, new Uint8Array(decayingNoise(seconds).buffer)]));
  return file;
}

/** One part for each effect of which there is a reference. */
export const effectParts: Readonly<Record<string, () => void>> = {
  eq: () => {
    const params: Record<string, number | string | boolean> = {};
    const bands = [80, 200, 500, 1500, 4000, 9000];
    bands.forEach((hertz, i) =>
      Object.assign(params, {
        [`on${i + 1}`]: true,
        [`freq${i + 1}`]: hertz,
        [`gain${i + 1}`]: i % 2 ? -3 : 3,
        [`q${i + 1}`]: 1
      })
    );
    const f = bands.map((hertz, i) => `equalizer=f=${hertz}:t=q:w=1:g=${i % 2 ? -3 : 3}:r=f64`).join(",");
    effect("EQ, 6 bands", "parametric-eq", params, "ffmpeg equalizer × 6 (f64)", f, 2);
  },
  limiter: () =>
    effect(
      "true-peak limiter",
      "limiter",
      { gainDb: 6, ceilingDb: -1 },
      "ffmpeg alimiter",
      "alimiter=level_in=2:limit=0.89:attack=5:release=80:level=false",
      1
    ),
  convolution: () => {
    const impulse = impulseFile(2);
    const samples = decayingNoise(2);
    const response = {
      left: samples.filter((_, i) => i % 2 === 0),
      right: samples.filter((_, i) => i % 2 === 1)
    };
    const steps: StepSpec[] = [
      { effect: "convolution", on: true, params: { impulse: "i", mixPercent: 100 } }
    ];
    const name = "convolution, 2 s stereo impulse";
    const place = { frames: FRAMES, position: 0, learnt: [], sound: () => response };
    const make = () => new Chain(steps, RATE, place);
    compare({
      name,
      ours: () => wholeTime(make),
      theirs: filter("[0][1]afir=dry=10:wet=10", ["-i", impulse]),
      least: 1.3,
      reference: "ffmpeg afir"
    });
    chainOnSilence(name, make);
  },
  reverb: () => {
    // Nothing in ffmpeg makes a room of its own; a convolution with as long a response is the nearest.
    const impulse = impulseFile(1.4);
    effect("reverb", "reverb", { decayS: 1.4 }, "ffmpeg afir, 1.4 s", "[0][1]afir=dry=10:wet=10", 1, [
      "-i",
      impulse
    ]);
    effect(
      "reverb of a large room",
      "reverb",
      { sizePercent: 100, decayS: 4 },
      "ffmpeg afir, 4 s",
      "[0][1]afir=dry=10:wet=10",
      0.9,
      ["-i", impulseFile(4)]
    );
  },
  noise: () => {
    const learner = new NoiseLearner(RATE);
    for (let at = 0; at < 10 * RATE; at += BLOCK)
      learner.push(sound.left.ptr + at * 4, sound.right.ptr + at * 4, BLOCK);
    const learnt = learner.finish();
    learner.release();
    const profile = learnt ? profileToText(learnt) : "";
    effect(
      "noise reduction",
      "noise-reduction",
      { source: "carried", profile },
      "ffmpeg afftdn",
      "afftdn=nr=18:nf=-40",
      3
    );
  },
  leveller: () => learningEffect("leveller", "leveller", "ffmpeg dynaudnorm", "dynaudnorm", 0.5),
  // Nothing in ffmpeg follows lines; another restoration that hears all is the nearest.
  hum: () => learningEffect("hum removal", "hum-removal", "ffmpeg afftdn", "afftdn=nr=18:nf=-40", 0.07),
  plosives: () =>
    learningEffect("plosive removal", "plosive-removal", "ffmpeg afftdn", "afftdn=nr=18:nf=-40", 1),
  // The reference gets the sound clipped by 3 dB; ours takes what lies above that for clipped.
  declip: () =>
    learningEffect("de-clip", "declip", "ffmpeg adeclip", "volume=3dB:precision=fixed,adeclip", 0.5, {
      level: "set",
      levelDb: -3
    }),
  compressor: () =>
    effect(
      "compressor",
      "compressor",
      { thresholdDb: -24, ratio: 4 },
      "ffmpeg acompressor",
      "acompressor=threshold=0.063:ratio=4:attack=10:release=150",
      1
    ),
  gate: () =>
    effect(
      "gate",
      "gate",
      { thresholdDb: -30 },
      "ffmpeg agate",
      "agate=threshold=0.03:attack=1:release=120",
      1
    ),
  delay: () =>
    effect(
      "delay",
      "delay",
      { timeMs: 350, feedbackPercent: 35 },
      "ffmpeg aecho, 3 echoes",
      "aecho=1:0.7:350|700|1050:0.35|0.12|0.04",
      1
    ),
  chorus: () =>
    effect(
      "chorus",
      "chorus",
      { voices: 3 },
      "ffmpeg chorus, 3 voices",
      "chorus=0.7:0.9:18|20|22:0.4|0.4|0.4:0.6|0.5|0.7:3|3|3",
      1
    )
};
