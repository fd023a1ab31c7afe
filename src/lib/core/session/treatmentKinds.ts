// What kinds of treatment a chain does, for the signs on clips.
import type { EffectGroup } from "../effects/description";
import { effectOf } from "../effects/registry";
import type { Step } from "./schema";

export const TREATMENT_KINDS = {
  level: "level and dynamics",
  tone: "tone",
  space: "space and echo",
  repair: "repair",
  time: "pitch and time"
} as const;
export type TreatmentKind = keyof typeof TREATMENT_KINDS;

const KIND_OF: Record<EffectGroup, TreatmentKind | undefined> = {
  dynamics: "level",
  tone: "tone",
  space: "space",
  repair: "repair",
  channels: "level",
  whole: "level",
  unknown: undefined
};
const TIME = ["reverse"];
const ORDER = Object.keys(TREATMENT_KINDS) as TreatmentKind[];
const known = new WeakMap<readonly Step[], readonly TreatmentKind[]>();

/** The kinds of a chain's steps that are on, or, when none is, of all; each once, in a fixed order. */
export function treatmentKinds(steps: readonly Step[]): readonly TreatmentKind[] {
  const found = known.get(steps);
  if (found) return found;
  const heard = steps.some((s) => s.on) ? steps.filter((s) => s.on) : steps;
  const kinds = new Set(
    heard.map(({ effect }) => (TIME.includes(effect) ? "time" : KIND_OF[effectOf(effect).group]))
  );
  const made = ORDER.filter((kind) => kinds.has(kind));
  known.set(steps, made);
  return made;
}
