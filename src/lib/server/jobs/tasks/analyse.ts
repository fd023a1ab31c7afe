import { renameSync } from "node:fs";
import path from "node:path";
import type { AnalysisJson, TraceJson } from "$lib/api/listening";
import { curveToJson, measurementToJson } from "$lib/core/measure/json";
import { spectraToJson } from "$lib/core/measure/spectraJson";
import { analyseBus } from "$lib/core/render/busAnalysis";
import type { ChainAnalyser, ChainAnalysis, StepTrace } from "$lib/core/render/chainAnalysis";
import { analysePart } from "$lib/core/render/clipAnalysis";
import { Plan } from "$lib/core/render/graph";
import { SpoolStream } from "$lib/core/render/spoolStream";
import { Document } from "$lib/core/session/document";
import { FileSource } from "../../media/fileSource";
import { FileSpool } from "../../media/fileSpool";
import type { AnalyseTask, Tick } from "./task";

const SPAN = 1 << 17;
const clock = () => performance.now();

function toJson({ stages, output, before, after, loudness, trace, spectra }: ChainAnalysis): AnalysisJson {
  return {
    stages: stages.map(({ stepId, measurement, learnt, changed, cost }) => ({
      stepId,
      measurement: measurement && measurementToJson(measurement),
      ...(changed === undefined ? {} : { changed }),
      ...(cost === undefined ? {} : { cost }),
      ...(learnt ? { learnt } : {})
    })),
    output: output && measurementToJson(output),
    before: [...before],
    after: [...after],
    ...(loudness ? { loudness: curveToJson(loudness) } : {}),
    ...(trace ? { trace: traceToJson(trace) } : {}),
    ...(spectra
      ? { spectra: { before: spectraToJson(spectra.before), after: spectraToJson(spectra.after) } }
      : {})
  };
}

function traceToJson({ stepId, inPeaks, outPeaks, inSpectra, outSpectra, changed }: StepTrace): TraceJson {
  return {
    stepId,
    inPeaks: [...inPeaks],
    outPeaks: [...outPeaks],
    inSpectra: spectraToJson(inSpectra),
    outSpectra: spectraToJson(outSpectra),
    changed
  };
}

/** Sound that is written while it is heard, and put in place when it is whole. */
class Keeping {
  readonly #part: string;
  readonly #spool: FileSpool;

  constructor(
    private readonly file: string,
    scratch: string
  ) {
    this.#part = path.join(scratch, "point");
    this.#spool = new FileSpool(this.#part);
  }

  take(l: number, r: number, n: number): void {
    this.#spool.append(l, r, n);
  }

  finish(): void {
    this.#spool.finish();
    renameSync(this.#part, this.file);
  }

  close(): void {
    this.#spool.release();
  }
}

function analyserOf(
  task: AnalyseTask,
  source: FileSource,
  keeping: Keeping | undefined,
  begin: FileSpool | undefined
): ChainAnalyser {
  const { what, sampleRate, bins, known, from, keep } = task;
  if ("document" in what) {
    const plan = new Plan(Document.fromJson(what.document));
    const bus = what.busId === plan.mix.id ? plan.mix : plan.bus(what.busId);
    return analyseBus(plan, bus, source, what.from, what.to, bins, { ...task.pictures, clock });
  }
  return analysePart(what.part, what.shape, source, sampleRate, bins, {
    measures: (stepId) => !known.includes(stepId),
    within: what.within ?? undefined,
    clock,
    ...task.pictures,
    ...(keeping && keep ? { keep: { after: keep.after, take: (l, r, n) => keeping.take(l, r, n) } } : {}),
    ...(begin && from ? { from: { input: new SpoolStream(begin), after: from.after } } : {})
  });
}

export function analyse(task: AnalyseTask, tick: Tick): AnalysisJson {
  const { sampleRate, files, lessons, from, keep, what } = task;
  const source = new FileSource(files, sampleRate);
  for (const [key, learnt] of Object.entries(lessons))
    source.learnt.set(
      key,
      learnt.map((values) => values && { values }).map((one) => one ?? undefined)
    );
  const keeping = keep ? new Keeping(keep.file, task.scratch) : undefined;
  const begin = from && "part" in what ? new FileSpool(from.file, what.part.length) : undefined;
  let analyser: ChainAnalyser | undefined;
  try {
    const now = (analyser = analyserOf(task, source, keeping, begin));
    while (!now.advance(SPAN)) tick(now.progress, () => toJson(now.result()));
    keeping?.finish();
    return toJson(now.result());
  } finally {
    analyser?.release();
    keeping?.close();
    begin?.release();
    source.close();
  }
}
