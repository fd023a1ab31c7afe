import { writeFileSync } from "node:fs";
import path from "node:path";
import { Resampler } from "../../src/lib/core/audio/resampler";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { decodeSamples, encodeSamples } from "../../src/lib/core/formats/samples";
import { wavHeader } from "../../src/lib/core/formats/wavWriter";
import { kernels } from "../../src/lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import { compiled, ffmpegConvert, ffmpegFilter, numbersOf } from "../native";
import { compare, compareSilence, timed } from "./pairs";
import { ffmpeg, folder, FRAMES, left, right, SECONDS, wav } from "./setup";

/** Sample rate conversion. */
export function resampling(): void {
  const seconds = Math.min(SECONDS, 60);
  const frames = seconds * 44100;
  const source = path.join(folder, "source.wav");
  const data = new Float32Array(frames * 2);
  for (let i = 0; i < frames; i++) data.set([left[i], right[i]], 2 * i);
  writeFileSync(source, Buffer.concat([wavHeader("float32", 2, 44100, frames), new Uint8Array(data.buffer)]));
  const resample = (resampler: Resampler, l: Float32Array, r: Float32Array) =>
    timed(() => {
      for (let at = 0; at < l.length; at += 65536)
        resampler.push(l.subarray(at, at + 65536), r.subarray(at, at + 65536), () => undefined);
    });
  const ours = () => {
    const resampler = new Resampler(44100, 48000);
    const time = resample(resampler, left.subarray(0, frames), right.subarray(0, frames));
    resampler.release();
    return time;
  };
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
  compareSilence("resampling", () => {
    const resampler = new Resampler(44100, 48000);
    const zeros = new Float32Array(Math.min(frames, 441000));
    const loud = resample(resampler, left.subarray(0, zeros.length), right.subarray(0, zeros.length));
    resample(resampler, zeros, zeros);
    const quiet = resample(resampler, zeros, zeros);
    resampler.release();
    return [loud, quiet];
  });
}
/** Sample formats of WAV files. */
export function wavSamples(): void {
  const frames = 1 << 17;
  const bytes = new KernelBuffer(frames * 6);
  const rounds = Math.ceil(FRAMES / frames);
  const wav24 = path.join(folder, "sound24.wav");
  if (ffmpeg) ffmpegConvert(["-i", wav, "-c:a", "pcm_s24le", wav24]);
  const samples = new StereoBlock(frames);
  const fill = (l: Float32Array, r: Float32Array) => {
    samples.left.f32.set(l.subarray(0, frames));
    samples.right.f32.set(r.subarray(0, frames));
  };
  const stride = samples.right.ptr - samples.left.ptr;
  const readIn = () =>
    timed(() => {
      for (let k = 0; k < rounds; k++) decodeSamples("int24", bytes.ptr, frames, 2, samples.left.ptr, stride);
    });
  const writeOut = () =>
    timed(() => {
      let seed = 0;
      for (let k = 0; k < rounds; k++)
        seed = encodeSamples("int24", samples.left.ptr, stride, frames, 2, bytes.ptr, seed);
    });
  const toF32 = ffmpeg
    ? () => ffmpegConvert(["-i", wav24, "-c:a", "pcm_f32le", "-f", "null", "-"])
    : undefined;
  const to24 = ffmpeg ? () => ffmpegConvert(["-i", wav, "-c:a", "pcm_s24le", "-f", "null", "-"]) : undefined;
  fill(left, right);
  compare({ name: "24-bit WAV out, no dither", ours: writeOut, theirs: to24, least: 6, reference: "ffmpeg" });
  compare({ name: "24-bit WAV in", ours: readIn, theirs: toF32, least: 8, reference: "ffmpeg" });
  const zeros = new Float32Array(frames);
  const onSilence = (name: string, work: () => number) =>
    compareSilence(name, () => {
      const often = () => work() + work() + work() + work();
      fill(left, right);
      writeOut();
      const loud = often();
      fill(zeros, zeros);
      writeOut();
      return [loud, often()];
    });
  onSilence("24-bit WAV out", writeOut);
  onSilence("24-bit WAV in", readIn);
}

/** The overview that waveforms are drawn from. */
export function overview(): void {
  const program = compiled("overview", folder);
  const samples = 1 << 22;
  const rounds = 40;
  const out = new KernelBuffer((samples / 256) * 4);
  const memory = new KernelBuffer(samples * 4);
  memory.f32.forEach((_, i, all) => (all[i] = left[i % FRAMES]));
  const ours = () =>
    timed(() => {
      for (let k = 0; k < rounds; k++) kernels.overview(memory.ptr, 0, 1, samples, 256, out.ptr);
    });
  compare({
    name: "waveform overview",
    ours,
    theirs: program ? () => numbersOf(program, [String(samples), String(rounds)])[0] : undefined,
    least: 2,
    reference: "C loop, -O2"
  });
  compareSilence("waveform overview", () => {
    memory.f32.forEach((_, i, all) => (all[i] = left[i % FRAMES]));
    const loud = ours();
    memory.f32.fill(0);
    return [loud, ours()];
  });
}
