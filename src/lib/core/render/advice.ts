// What in a chain looks like a mistake, from the levels around its steps. Each rule says one thing in one sentence.
import { num, type Params } from "../effects/description";
import { completeParams, effectOf } from "../effects/registry";
import type { Measurement } from "../measure/meter";
import { formatDb } from "../units/decibels";

/** A step that is heard, with the levels that come to it and leave it. */
export interface AdvisedStep {
  readonly id: string;
  readonly effect: string;
  readonly params: Params;
  readonly before: Measurement;
  readonly after: Measurement;
  /** Whether it has changed anything; undefined when that is not known. */
  readonly changed: boolean | undefined;
}

export type AdviceKind =
  | "clips"
  | "hard-limiting"
  | "never-opens"
  | "wants-profile"
  | "changes-nothing"
  | "unknown-effect"
  | "reverb-before-noise";

export interface Advice {
  readonly stepId: string;
  readonly kind: AdviceKind;
  readonly text: string;
}

/** What a limiter takes off the highest peak before it is told to be much, in dB (the figure; common practice, no source). */
const HARD_DB = 12;
const ROOMS = ["reverb", "convolution", "delay"];

type Rule = (steps: readonly AdvisedStep[]) => Advice[];

const valuesOf = ({ effect, params }: AdvisedStep) => completeParams(effectOf(effect), params);

/** The step behind which peaks lie above full scale for good. */
const clips: Rule = (steps) => {
  const last = steps.at(-1);
  if (!last || last.after.truePeakDbtp <= 0) return [];
  let at = steps.length - 1;
  while (at > 0 && steps[at].before.truePeakDbtp > 0) at--;
  const step = steps[at];
  // It came in too high already.
  if (step.before.truePeakDbtp > 0) return [];
  const peak = step.after.truePeakDbtp;
  const text = `Peaks reach ${formatDb(peak, 1, true)} dBTP here and will clip: take ${formatDb(last.after.truePeakDbtp)} dB off, or put a limiter behind it.`;
  return [{ stepId: step.id, kind: "clips", text }];
};

const hardLimiting: Rule = (steps) =>
  steps.flatMap((step): Advice[] => {
    if (step.effect !== "limiter") return [];
    const params = valuesOf(step);
    const taken = step.before.truePeakDbtp + num(params, "gainDb") - num(params, "ceilingDb");
    if (!(taken > HARD_DB)) return [];
    const text = `It takes ${formatDb(taken)} dB off the highest peak: less gain, or a compressor before it, leaves more of the sound.`;
    return [{ stepId: step.id, kind: "hard-limiting", text }];
  });

const neverOpens: Rule = (steps) =>
  steps.flatMap((step): Advice[] => {
    if (step.effect !== "expander" && step.effect !== "gate") return [];
    const threshold = num(valuesOf(step), "thresholdDb");
    const peak = step.before.samplePeakDbfs;
    if (!(peak < threshold)) return [];
    const text = `It never opens: nothing here is above ${formatDb(threshold)} dB. Set its threshold below ${formatDb(peak)} dB.`;
    return [{ stepId: step.id, kind: "never-opens", text }];
  });

const changesNothing: Rule = (steps) =>
  steps.flatMap((step): Advice[] => {
    if (step.changed !== false) return [];
    const { group, help } = effectOf(step.effect);
    if (group === "unknown") return [{ stepId: step.id, kind: "unknown-effect", text: help }];
    const text = "It changes nothing of this sound: set it otherwise, or take it out.";
    return [{ stepId: step.id, kind: "changes-nothing", text }];
  });

const reverbBeforeNoise: Rule = (steps) =>
  steps.flatMap((step, i): Advice[] => {
    if (step.effect !== "noise-reduction") return [];
    const room = steps.slice(0, i).find(({ effect }) => ROOMS.includes(effect));
    if (!room) return [];
    const { name } = effectOf(room.effect);
    const text = `It hears the ${name.toLowerCase()} before it as well, and cuts its tail: put it before the ${name.toLowerCase()}.`;
    return [{ stepId: step.id, kind: "reverb-before-noise", text }];
  });

const wantsProfile: Rule = (steps) =>
  steps.flatMap((step): Advice[] => {
    if (step.effect !== "noise-reduction" || valuesOf(step).source !== "ask") return [];
    const text =
      "It waits for a noise profile: select a stretch with noise alone and learn it. Until then nothing is taken.";
    return [{ stepId: step.id, kind: "wants-profile", text }];
  });

const RULES: readonly Rule[] = [
  clips,
  hardLimiting,
  neverOpens,
  wantsProfile,
  reverbBeforeNoise,
  changesNothing
];

/** What is to be said of a chain: at most one sentence a step, the graver one. Steps in the order in which they are heard. */
export function adviceOn(steps: readonly AdvisedStep[]): Advice[] {
  const said = new Set<string>();
  return RULES.flatMap((rule) => rule(steps)).filter(({ stepId }) => {
    if (said.has(stepId)) return false;
    said.add(stepId);
    return true;
  });
}
