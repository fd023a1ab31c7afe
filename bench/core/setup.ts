// What all parts of the core's bench work on: a sound in memory and in files, and silence.
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { wavHeader } from "../../src/lib/core/formats/wavWriter";
import { installed } from "../native";

export const RATE = 48000;
export const SECONDS = Number(process.env.WRING_BENCH_SECONDS ?? 120);
export const FRAMES = SECONDS * RATE;
export const ffmpeg = installed("ffmpeg");
export const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-core-"));

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

export const [left, right] = makeSound();
export const sound = new StereoBlock(FRAMES);
sound.left.f32.set(left);
sound.right.f32.set(right);
export const silent = new StereoBlock(RATE * 10);
export const wav = path.join(folder, "sound.wav");
export const raw = path.join(folder, "sound.f32");
{
  const interleaved = new Float32Array(FRAMES * 2);
  for (let i = 0; i < FRAMES; i++) interleaved.set([left[i], right[i]], 2 * i);
  const bytes = new Uint8Array(interleaved.buffer);
  writeFileSync(raw, bytes);
  writeFileSync(wav, Buffer.concat([wavHeader("float32", 2, RATE, FRAMES), bytes]));
}
