import path from "node:path";
import { BLOCK } from "$lib/core/audio/block";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { Plan } from "$lib/core/render/graph";
import { MixStream } from "$lib/core/render/mix";
import { Document } from "$lib/core/session/document";
import { FileSource } from "../../media/fileSource";
import { MadeRecording } from "../../media/madeRecording";
import type { BounceResult, BounceTask, Tick } from "./task";

/** Share of the time that hashing takes. */
const HASHING = 0.1;

export function bounce({ document: json, from, to, files, scratch }: BounceTask, tick: Tick): BounceResult {
  const document = Document.fromJson(json);
  const { sampleRate } = document;
  const name = "bounce.wav";
  const file = path.join(scratch, name);
  const source = new FileSource(files, sampleRate);
  const mix = new MixStream(new Plan(document), source, from);
  const made = new MadeRecording(file, sampleRate);
  const planar = new KernelBuffer(BLOCK * 8);
  const [l, r] = [planar.ptr, planar.ptr + BLOCK * 4];
  try {
    for (let at = from; at < to; at += BLOCK) {
      const n = Math.min(BLOCK, to - at);
      mix.read(l, r, n);
      made.write(l, r, n);
      tick(((1 - HASHING) * (at + n - from)) / (to - from));
    }
    const hash = made.finish((s) => tick(1 - HASHING + s * HASHING));
    return { hash, file: name, frames: to - from };
  } finally {
    made.abandon();
    mix.release();
    source.close();
    planar.release();
  }
}
