import path from "node:path";
import { BLOCK } from "$lib/core/audio/block";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { Plan } from "$lib/core/render/graph";
import { MixStream } from "$lib/core/render/mix";
import { Document } from "$lib/core/session/document";
import { FileSource } from "../../media/fileSource";
import { ingest } from "../../media/ingest";
import { WavWriter } from "../../media/wavFile";
import type { BounceResult, BounceTask, Tick } from "./task";

/** Share of the time that hashing and drawing take. */
const INGEST = 0.1;

export function bounce(
  { document: json, from, to, files, scratch, dataFolder }: BounceTask,
  tick: Tick
): BounceResult {
  const document = Document.fromJson(json);
  const { sampleRate } = document;
  const name = "bounce.wav";
  const file = path.join(scratch, name);
  const source = new FileSource(files, sampleRate);
  const mix = new MixStream(new Plan(document), source, from);
  const writer = new WavWriter(file, "float32", 2, sampleRate, "none");
  const planar = new KernelBuffer(BLOCK * 8);
  const [l, r] = [planar.ptr, planar.ptr + BLOCK * 4];
  try {
    for (let at = from; at < to; at += BLOCK) {
      const n = Math.min(BLOCK, to - at);
      mix.read(l, r, n);
      writer.write(l, BLOCK * 4, n);
      tick(((1 - INGEST) * (at + n - from)) / (to - from));
    }
    writer.finish();
    const { hash } = ingest(file, dataFolder, sampleRate, scratch, (s) => tick(1 - INGEST + s * INGEST));
    return { hash, file: name, frames: to - from };
  } finally {
    writer.abandon();
    mix.release();
    source.close();
    planar.release();
  }
}
