// What steps have to learn from the whole of their sound before it can be heard, and under which key that is kept.
import { mustLearn } from "../effects/learning";
import type { StepSpec } from "../effects/chain";
import { ENGINE_VERSION } from "../engineVersion";
import type { SoundPart } from "./soundPart";

function recipe(steps: readonly StepSpec[]): unknown[] {
  return steps.map(({ effect, on, params, span }) => [effect, on, params, span ?? null]);
}

const keys = new WeakMap<SoundPart, { readonly sampleRate: number; readonly key: string | undefined }>();

/** Names all that the learning of a part depends on; undefined when there is nothing to learn. */
export function prePassKey(part: SoundPart, sampleRate: number): string | undefined {
  const known = keys.get(part);
  if (known?.sampleRate === sampleRate) return known.key;
  const key = keyOf(part, sampleRate);
  keys.set(part, { sampleRate, key });
  return key;
}

function keyOf(part: SoundPart, sampleRate: number) {
  const { recordingId, offset, length, origin, steps, under, closing } = part;
  let last = steps.length;
  while (last > 0 && !mustLearn(steps[last - 1])) last--;
  if (last === 0) return undefined;
  const below = under ? recipe(under.steps) : [];
  return JSON.stringify([
    ENGINE_VERSION,
    recordingId,
    offset,
    length,
    origin,
    sampleRate,
    recipe(steps.slice(0, last)),
    below,
    ...(closing ? [closing] : [])
  ]);
}

/** The parts whose learning a part waits for, in order: its recording's, then its own. */
export function partsToLearn(part: SoundPart, sampleRate: number): SoundPart[] {
  const all = part.under ? [part.under, part] : [part];
  return all.filter((one) => prePassKey(one, sampleRate) !== undefined);
}
