// What the steps of a clip have to learn from the whole of it before it can sound, and where that is kept.
import { MemoryKeep } from "../audio/keep";
import { learnAll, mustLearn, type Lesson } from "../effects/learning";
import type { Learnt } from "../effects/description";
import type { Step } from "../session/schema";
import type { Source } from "./source";

/** A stretch of a recording and the steps that it goes through. */
export interface Treated {
  readonly recordingId: string;
  readonly offset: number;
  readonly length: number;
  readonly steps: readonly Step[];
}

const NOTHING: readonly (Learnt | undefined)[] = [];

/** Names all that the learning of a clip depends on; undefined when there is nothing to learn. */
export function lessonKey(treated: Treated, sampleRate: number): string | undefined {
  const { recordingId, offset, length, steps } = treated;
  let last = steps.length;
  while (last > 0 && !mustLearn(steps[last - 1])) last--;
  if (last === 0) return undefined;
  const recipe = steps.slice(0, last).map(({ effect, on, params }) => ({ effect, on, params }));
  return JSON.stringify([recordingId, offset, length, sampleRate, recipe]);
}

export function lessonOf(treated: Treated, source: Source, sampleRate: number): Lesson {
  return {
    steps: treated.steps,
    sampleRate,
    frames: treated.length,
    channels: source.channels,
    read: (from, n, l, r) => source.read(treated.recordingId, treated.offset + from, n, l, r),
    sound: (id) => source.sound?.(id),
    keep: () => source.keep?.() ?? new MemoryKeep()
  };
}

/** What the steps have learnt, by their index; learnt now when it is not kept yet. All frames must be at hand then. */
export function learntOf(
  treated: Treated,
  source: Source,
  sampleRate: number
): readonly (Learnt | undefined)[] {
  const key = lessonKey(treated, sampleRate);
  if (key === undefined) return NOTHING;
  let learnt = source.learnt?.get(key);
  if (!learnt) {
    learnt = learnAll(lessonOf(treated, source, sampleRate));
    source.learnt?.set(key, learnt);
  }
  return learnt;
}
