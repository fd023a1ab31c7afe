// What the steps of a clip have to learn from the whole of it before it can sound, and where that is kept.
import { MemorySpool } from "../audio/spool";
import { learnAll, mustLearn, type PrePass } from "../effects/learning";
import type { Learnt } from "../effects/description";
import type { StepSpec } from "../effects/chain";
import type { Source } from "./source";

/** A stretch of a recording and the steps that it goes through. */
export interface ClipWindow {
  readonly recordingId: string;
  readonly offset: number;
  readonly length: number;
  readonly steps: readonly StepSpec[];
}

const NOTHING: readonly (Learnt | undefined)[] = [];

/** Names all that the learning of a clip depends on; undefined when there is nothing to learn. */
export function prePassKey(part: ClipWindow, sampleRate: number): string | undefined {
  const { recordingId, offset, length, steps } = part;
  let last = steps.length;
  while (last > 0 && !mustLearn(steps[last - 1])) last--;
  if (last === 0) return undefined;
  const recipe = steps.slice(0, last).map(({ effect, on, params }) => ({ effect, on, params }));
  return JSON.stringify([recordingId, offset, length, sampleRate, recipe]);
}

export function prePassOf(part: ClipWindow, source: Source, sampleRate: number): PrePass {
  return {
    steps: part.steps,
    sampleRate,
    frames: part.length,
    channels: source.channels,
    read: (from, n, l, r) => source.read(part.recordingId, part.offset + from, n, l, r),
    sound: (id) => source.sound?.(id),
    spool: () => source.spool?.() ?? new MemorySpool()
  };
}

/** What the steps have learnt, by their index; learnt now when it is not kept yet. All frames must be at hand then. */
export function learntOf(
  part: ClipWindow,
  source: Source,
  sampleRate: number
): readonly (Learnt | undefined)[] {
  const key = prePassKey(part, sampleRate);
  if (key === undefined) return NOTHING;
  let learnt = source.learnt?.get(key);
  if (!learnt) {
    learnt = learnAll(prePassOf(part, source, sampleRate));
    source.learnt?.set(key, learnt);
  }
  return learnt;
}
