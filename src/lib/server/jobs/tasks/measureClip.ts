import { measurementToJson } from "$lib/core/measure/json";
import { analysePart, barePart } from "$lib/core/render/clipAnalysis";
import { FileSource } from "../../media/fileSource";
import type { MeasureResult, MeasureTask, Tick } from "./task";

const SPAN = 1 << 17;

export function measureClip(task: MeasureTask, tick: Tick): MeasureResult {
  const source = new FileSource(task.files, task.sampleRate);
  const analyser = analysePart(barePart(task.clip), task.clip, source, task.sampleRate, 1, {
    // Only what comes in and what goes out is asked for.
    measures: (stepId) => stepId === null,
    annex2: true
  });
  try {
    while (!analyser.advance(SPAN)) tick(analyser.progress);
    const { stages, output } = analyser.result();
    const [before] = stages;
    if (!before?.measurement || !output) throw new Error("The clip has no frames that could be measured.");
    return { untreated: measurementToJson(before.measurement), treated: measurementToJson(output) };
  } finally {
    analyser.release();
    source.close();
  }
}
