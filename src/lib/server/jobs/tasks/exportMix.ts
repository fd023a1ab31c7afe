import path from "node:path";
import { measurementToJson } from "$lib/core/measure/json";
import { Meter } from "$lib/core/measure/meter";
import { Document } from "$lib/core/session/document";
import { eachMixBlock, MIX_STRIDE } from "../../media/eachMixBlock";
import { WavWriter } from "../../media/wavFile";
import type { ExportResult, ExportTask, Tick } from "./task";

export function exportMix(task: ExportTask, tick: Tick): ExportResult {
  const document = Document.fromJson(task.document);
  const { sampleRate } = document;
  const file = "export.wav";
  const dither = task.dither ? "triangular" : "none";
  const writer = new WavWriter(path.join(task.scratch, file), task.format, 2, sampleRate, dither);
  const meter = new Meter(sampleRate);
  const take = (left: number, frames: number) => {
    meter.push(left, left + MIX_STRIDE, frames);
    writer.write(left, MIX_STRIDE, frames);
  };
  try {
    eachMixBlock(document, task.files, task, take, tick);
    writer.finish();
    return { file, frames: writer.frames, measurement: measurementToJson(meter.result()) };
  } finally {
    writer.abandon();
    meter.release();
  }
}
