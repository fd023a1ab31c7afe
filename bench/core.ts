// Speed of the core against native references, paired in one run: each pair is measured alternately, seven times, and the ratio of the
// medians is printed. What the reference spends on reading the file is subtracted from its time.
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { Resampler } from "../src/lib/core/audio/resampler";
import { BLOCK, StereoBlock } from "../src/lib/core/audio/block";
import { Chain, type StepSpec } from "../src/lib/core/effects/chain";
import type { Params } from "../src/lib/core/effects/description";
import { NoiseLearner, profileToText } from "../src/lib/core/effects/noiseProfile";
import { decodeSamples, encodeSamples } from "../src/lib/core/formats/samples";
import { wavHeader } from "../src/lib/core/formats/wavWriter";
import { Buffer as KernelBuffer } from "../src/lib/core/kernels/memory";
import { kernels } from "../src/lib/core/kernels/instance";
import { Meter } from "../src/lib/core/measure/meter";
import { compiled, ffmpegConvert, ffmpegFilter, installed, numbersOf } from "./native";
import { median, row } from "./table";

const RATE = 48000;
const SECONDS = Number(process.env.WRING_BENCH_SECONDS ?? 120);
const ROUNDS = 7;
const FRAMES = SECONDS * RATE;
const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-core-"));

/** Something like music: chords with an envelope four times a second, and a little noise; peaks near full scale. */
function makeSound(): [Float32Array, Float32Array] {
  const [left, right] = [new Float32Array(FRAMES), new Float32Array(FRAMES)];
  let seed = 1;
  for (let i = 0; i < FRAMES; i++) {
    const t = i / RATE;
    const beat = Math.exp(-3 * (t * 4 - Math.floor(t * 4)));
    seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
    const hiss = (seed / 2 ** 31) * 0.05;
    const chord =
      Math.sin(2 * Math.PI * 110 * t) +
      Math.sin(2 * Math.PI * 277.2 * t) +
      Math.sin(2 * Math.PI * 659.3 * t + Math.sin(t));
    left[i] = beat * (0.28 * chord + hiss);
    right[i] = beat * (0.26 * chord - hiss + 0.05 * Math.sin(2 * Math.PI * 3000 * t));
  }
  return [left, right];
}

const [left, right] = makeSound();
const sound = new StereoBlock(FRAMES);
sound.left.f32.set(left);
sound.right.f32.set(right);
const silent = new StereoBlock(RATE * 10);
const wav = path.join(folder, "sound.wav");
const raw = path.join(folder, "sound.f32");
{
  const interleaved = new Float32Array(FRAMES * 2);
  for (let i = 0; i < FRAMES; i++) interleaved.set([left[i], right[i]], 2 * i);
  const bytes = new Uint8Array(interleaved.buffer);
  writeFileSync(raw, bytes);
  writeFileSync(wav, Buffer.concat([wavHeader("float32", 2, RATE, FRAMES), bytes]));
}
const ffmpeg = installed("ffmpeg");
const block = new StereoBlock(BLOCK);

/** User time of work, seconds. */
function timed(work: () => void): number {
  const begin = process.cpuUsage();
  work();
  return process.cpuUsage(begin).user / 1e6;
}

/** Runs a chain over the sound; only its processing is of interest, the copying in is counted with it. */
function runChain(chain: Chain, from: StereoBlock, frames: number): void {
  for (let at = 0; at < frames; at += BLOCK) {
    const n = Math.min(BLOCK, frames - at);
    kernels.copy(block.left.ptr, from.left.ptr + at * 4, n);
    kernels.copy(block.right.ptr, from.right.ptr + at * 4, n);
    chain.process(block.left.ptr, block.right.ptr, n);
  }
}

interface Pair {
  readonly name: string;
  readonly ours: () => number;
  /** Undefined when the reference is not installed. */
  readonly theirs: (() => number) | undefined;
  readonly least: number;
  readonly reference: string;
}

function compare({ name, ours, theirs, least, reference }: Pair): void {
  ours();
  const mine: number[] = [];
  const others: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    mine.push(ours());
    if (theirs) others.push(theirs());
  }
  const speed = SECONDS / median(mine);
  if (!theirs) {
    row(`${name}: ${reference} is not installed`, speed, "× real time");
    return;
  }
  row(`${name} (${speed.toFixed(0)} × real time)`, median(others) / median(mine), `× ${reference}`, least);
}

/** The speed on digital silence after sound, against that on sound. */
function onSilence(name: string, steps: readonly StepSpec[]): void {
  const ratios: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    const chain = new Chain(steps, RATE);
    const loud = timed(() => runChain(chain, sound, silent.left.bytes / 4));
    runChain(chain, silent, silent.left.bytes / 4);
    const quiet = timed(() => runChain(chain, silent, silent.left.bytes / 4));
    chain.release();
    ratios.push(loud / quiet);
  }
  row(`${name} on silence after sound`, median(ratios), "× its speed", 0.9);
}

const baseline = ffmpeg ? () => ffmpegFilter(wav, "anull") : () => 0;
const plain = ffmpeg ? median(Array.from({ length: 5 }, baseline)) : 0;
const filter = (f: string, more?: readonly string[]) =>
  ffmpeg ? () => Math.max(1e-3, ffmpegFilter(wav, f, more) - plain) : undefined;

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
  const ours = () => {
    const chain = new Chain(steps, RATE);
    const seconds = timed(() => runChain(chain, sound, FRAMES));
    chain.release();
    return seconds;
  };
  compare({ name, ours, theirs: filter(f, more), least, reference });
  onSilence(name, steps);
}

function meterTime(): number {
  const meter = new Meter(RATE);
  const seconds = timed(() => {
    for (let at = 0; at < FRAMES; at += 4800)
      meter.push(sound.left.ptr + at * 4, sound.right.ptr + at * 4, Math.min(4800, FRAMES - at));
    meter.result();
  });
  meter.release();
  return seconds;
}

const only = process.argv[2];
const part = (name: string, work: () => void) => {
  if (!only || name.includes(only)) work();
};

part("loudness", () => {
  const program = compiled("loudness", folder, ["ebur128"]);
  const library = (mode: string) =>
    program ? () => numbersOf(program, [raw, String(RATE), mode])[0] : undefined;
  const loudnessOnly = () => {
    const meter = new Meter(RATE, { peaks: false });
    const seconds = timed(() => {
      for (let at = 0; at < FRAMES; at += 4800)
        meter.push(sound.left.ptr + at * 4, sound.right.ptr + at * 4, Math.min(4800, FRAMES - at));
      meter.result();
    });
    meter.release();
    return seconds;
  };
  compare({
    name: "loudness I + LRA",
    ours: loudnessOnly,
    theirs: library("i"),
    least: 4,
    reference: "libebur128"
  });
  compare({
    name: "I + LRA + true peak, all measures",
    ours: meterTime,
    theirs: library("t"),
    least: 20,
    reference: "libebur128"
  });
  compare({
    name: "I + LRA + true peak, all measures",
    ours: meterTime,
    theirs: filter("ebur128=peak=true"),
    least: 10,
    reference: "ffmpeg ebur128"
  });
  if (program) {
    const [, i, range, peak] = numbersOf(program, [raw, String(RATE), "t"]);
    const meter = new Meter(RATE);
    meter.push(sound.left.ptr, sound.right.ptr, FRAMES);
    const mine = meter.result();
    meter.release();
    row(
      "integrated loudness: difference from libebur128",
      Math.abs(mine.integratedLufs - i),
      "LU",
      undefined,
      0.01
    );
    row(
      "loudness range: difference from libebur128",
      Math.abs(mine.loudnessRangeLu - range),
      "LU",
      undefined,
      0.1
    );
    row("true peak: difference from libebur128", Math.abs(mine.truePeakDbtp - peak), "dB", undefined, 0.3);
  }
});

part("eq", () => {
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
});
part("limiter", () =>
  effect(
    "true-peak limiter",
    "limiter",
    { gainDb: 6, ceilingDb: -1 },
    "ffmpeg alimiter",
    "alimiter=level_in=2:limit=0.89:attack=5:release=80:level=false",
    1
  )
);
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

part("convolution", () => {
  const impulse = impulseFile(2);
  const samples = decayingNoise(2);
  const response = {
    left: samples.filter((_, i) => i % 2 === 0),
    right: samples.filter((_, i) => i % 2 === 1)
  };
  const steps: StepSpec[] = [{ effect: "convolution", on: true, params: { impulse: "i", mixPercent: 100 } }];
  const ours = () => {
    const chain = new Chain(steps, RATE, { frames: FRAMES, position: 0, learnt: [], sound: () => response });
    const seconds = timed(() => runChain(chain, sound, FRAMES));
    chain.release();
    return seconds;
  };
  compare({
    name: "convolution, 2 s stereo impulse",
    ours,
    theirs: filter("[0][1]afir=dry=10:wet=10", ["-i", impulse]),
    least: 1.3,
    reference: "ffmpeg afir"
  });
});
part("reverb", () => {
  // Nothing in ffmpeg makes a room of its own; a convolution with as long a response is the nearest.
  const impulse = impulseFile(1.4);
  effect("reverb", "reverb", { decayS: 1.4 }, "ffmpeg afir, 1.4 s", "[0][1]afir=dry=10:wet=10", 1, [
    "-i",
    impulse
  ]);
});
part("noise", () => {
  const learner = new NoiseLearner(RATE, true);
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
});
part("compressor", () =>
  effect(
    "compressor",
    "compressor",
    { thresholdDb: -24, ratio: 4 },
    "ffmpeg acompressor",
    "acompressor=threshold=0.063:ratio=4:attack=10:release=150",
    1
  )
);
part("gate", () =>
  effect("gate", "gate", { thresholdDb: -30 }, "ffmpeg agate", "agate=threshold=0.03:attack=1:release=120", 1)
);
part("delay", () =>
  effect(
    "delay",
    "delay",
    { timeMs: 350, feedbackPercent: 35 },
    "ffmpeg aecho, 3 echoes",
    "aecho=1:0.7:350|700|1050:0.35|0.12|0.04",
    1
  )
);
part("chorus", () =>
  effect(
    "chorus",
    "chorus",
    { voices: 3 },
    "ffmpeg chorus, 3 voices",
    "chorus=0.7:0.9:18|20|22:0.4|0.4|0.4:0.6|0.5|0.7:3|3|3",
    1
  )
);

part("resampling", () => {
  const seconds = Math.min(SECONDS, 60);
  const frames = seconds * 44100;
  const source = path.join(folder, "source.wav");
  const data = new Float32Array(frames * 2);
  for (let i = 0; i < frames; i++) data.set([left[i], right[i]], 2 * i);
  writeFileSync(source, Buffer.concat([wavHeader("float32", 2, 44100, frames), new Uint8Array(data.buffer)]));
  const ours = () =>
    timed(() => {
      const resampler = new Resampler(44100, 48000);
      for (let at = 0; at < frames; at += 65536) {
        const end = Math.min(frames, at + 65536);
        resampler.push(left.subarray(at, end), right.subarray(at, end), () => undefined);
      }
      resampler.release();
    });
  const soxr = ffmpeg
    ? () =>
        Math.max(
          1e-3,
          ffmpegFilter(source, "aresample=48000:resampler=soxr:precision=20") - ffmpegFilter(source, "anull")
        )
    : undefined;
  compare({
    name: "resampling 44.1 → 48 kHz",
    ours,
    theirs: soxr,
    least: 0.5,
    reference: "soxr (20 bit, 120 dB)"
  });
});
part("wav", () => {
  const frames = 1 << 17;
  const bytes = new KernelBuffer(frames * 6);
  const rounds = Math.ceil(FRAMES / frames);
  const wav24 = path.join(folder, "sound24.wav");
  if (ffmpeg) ffmpegConvert(["-i", wav, "-c:a", "pcm_s24le", wav24]);
  const readIn = () =>
    timed(() => {
      for (let k = 0; k < rounds; k++)
        decodeSamples("int24", bytes.ptr, frames, 2, sound.left.ptr, frames * 4);
    });
  const writeOut = () =>
    timed(() => {
      let seed = 0;
      for (let k = 0; k < rounds; k++)
        seed = encodeSamples(
          "int24",
          sound.left.ptr,
          sound.right.ptr - sound.left.ptr,
          frames,
          2,
          bytes.ptr,
          seed
        );
    });
  const toF32 = ffmpeg
    ? () => ffmpegConvert(["-i", wav24, "-c:a", "pcm_f32le", "-f", "null", "-"])
    : undefined;
  const to24 = ffmpeg ? () => ffmpegConvert(["-i", wav, "-c:a", "pcm_s24le", "-f", "null", "-"]) : undefined;
  compare({ name: "24-bit WAV in", ours: readIn, theirs: toF32, least: 8, reference: "ffmpeg" });
  sound.left.f32.set(left);
  compare({
    name: "24-bit WAV out, no dither",
    ours: writeOut,
    theirs: to24,
    least: 6,
    reference: "ffmpeg"
  });
});
part("overview", () => {
  const program = compiled("overview", folder);
  const samples = 1 << 22;
  const rounds = 40;
  const out = new KernelBuffer((samples / 256) * 8);
  const memory = new KernelBuffer(samples * 4);
  memory.f32.forEach((_, i, all) => (all[i] = left[i % FRAMES]));
  const ours = () =>
    timed(() => {
      for (let k = 0; k < rounds; k++) kernels.overview(memory.ptr, samples, 256, out.ptr);
    });
  compare({
    name: "waveform overview",
    ours,
    theirs: program ? () => numbersOf(program, [String(samples), String(rounds)])[0] : undefined,
    least: 2,
    reference: "C loop, -O2"
  });
});
rmSync(folder, { recursive: true, force: true });
