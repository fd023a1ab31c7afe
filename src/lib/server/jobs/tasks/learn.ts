import type { LessonJson } from "$lib/api/listening";
import { ChainLearner } from "$lib/core/effects/learning";
import { prePassOf } from "$lib/core/render/partStream";
import { FileSource } from "../../media/fileSource";
import type { LearnTask, Tick } from "./task";

const SPAN = 1 << 17;

export function learn({ part, sampleRate, files }: LearnTask, tick: Tick): LessonJson {
  const source = new FileSource(files, sampleRate);
  const learner = new ChainLearner(prePassOf(part, source, sampleRate));
  try {
    while (!learner.advance(SPAN)) tick(learner.progress);
    const learnt = learner.learnt.map((one) => one?.values ?? null);
    return { learnt, sound: learner.learnt.some((one) => one?.sound) };
  } finally {
    learner.forget();
    learner.release();
    source.close();
  }
}
