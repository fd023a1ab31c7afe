import path from "node:path";
import { BLOCK } from "$lib/core/audio/block";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { measurementToJson } from "$lib/core/measure/json";
import { Meter } from "$lib/core/measure/meter";
import { Plan } from "$lib/core/render/graph";
import { MixStream } from "$lib/core/render/mix";
import { Document } from "$lib/core/session/document";
import { FileSource } from "../../media/fileSource";
import { WavWriter } from "../../media/wavFile";
import type { ExportResult, ExportTask, Tick } from "./task";

export function exportMix(task: ExportTask, tick: Tick): ExportResult {
  const { from, to } = task;
  const document = Document.fromJson(task.document);
  const file = "export.wav";
  const source = new FileSource(task.files, document.sampleRate);
  const mix = new MixStream(new Plan(document), source, from);
  const meter = new Meter(document.sampleRate);
  const writer = new WavWriter(
    path.join(task.scratch, file),
    task.format,
    2,
    document.sampleRate,
    task.dither ? "triangular" : "none"
  );
  const planar = new KernelBuffer(BLOCK * 8);
  const [l, r] = [planar.ptr, planar.ptr + BLOCK * 4];
  try {
    for (let at = from; at < to; at += BLOCK) {
      const n = Math.min(BLOCK, to - at);
      mix.read(l, r, n);
      meter.push(l, r, n);
      writer.write(l, BLOCK * 4, n);
      tick((at + n - from) / (to - from));
    }
    writer.finish();
    return { file, frames: writer.frames, measurement: measurementToJson(meter.result()) };
  } finally {
    writer.abandon();
    mix.release();
    meter.release();
    source.close();
    planar.release();
  }
}
