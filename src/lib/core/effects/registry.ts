import { channels } from "./channels";
import { chorus } from "./chorus";
import { declip } from "./declip";
import { clickRepair } from "./clickRepair";
import { compressor } from "./compressor";
import { convolution } from "./convolution";
import { dcRemoval } from "./dcRemoval";
import { DIFFERENCE, difference } from "./difference";
import { deEsser } from "./deEsser";
import { delay } from "./delay";
import { defaultParams, paramFault, type EffectDescription, type Params } from "./description";
import { expander } from "./expander";
import { fade } from "./fade";
import { flanger } from "./flanger";
import { gain } from "./gain";
import { gate } from "./gate";
import { humRemoval } from "./humRemoval";
import { leveller } from "./leveller";
import { limiter } from "./limiter";
import { noiseReduction } from "./noiseReduction";
import { normalize } from "./normalize";
import { parametricEq } from "./parametricEq";
import { plosiveRemoval } from "./plosiveRemoval";
import { polarity } from "./polarity";
import { reverb } from "./reverb";
import { reverse } from "./reverse";
import { silence } from "./silence";
import { tone } from "./tone";
import { transientShaper } from "./transientShaper";
import { unknownEffect } from "./unknown";

/** Every effect there is, in the order in which they are offered. */
export const effects: readonly EffectDescription[] = [
  gain,
  parametricEq,
  tone,
  compressor,
  leveller,
  limiter,
  expander,
  gate,
  deEsser,
  transientShaper,
  noiseReduction,
  humRemoval,
  plosiveRemoval,
  clickRepair,
  declip,
  reverb,
  convolution,
  delay,
  chorus,
  flanger,
  channels,
  polarity,
  dcRemoval,
  normalize,
  fade,
  silence,
  reverse
];

const byId = new Map(effects.map((effect) => [effect.id, effect]));

/** The effect of this id, undefined when unknown. */
export function findEffect(id: string): EffectDescription | undefined {
  return byId.get(id);
}

/** The effect of this id; one that this version does not have is stood for by one that does nothing. */
export function effectOf(id: string): EffectDescription {
  return byId.get(id) ?? (id === DIFFERENCE ? difference : unknownEffect(id));
}

/** Given values over the defaults: what a processor wants. */
export function completeParams(effect: EffectDescription, given: Params): Params {
  return { ...defaultParams(effect), ...given };
}

/** Whether what comes out of a step depends on where in its clip it lies, or on the whole of the clip. */
export function dependsOnPlace(step: { readonly effect: string; readonly params: Params }): boolean {
  const effect = byId.get(step.effect);
  if (!effect) return false;
  if (effect.placed) return true;
  return effect.learn !== undefined && (effect.learns?.(completeParams(effect, step.params)) ?? true);
}

/** Whether a step can sound without having heard all of its sound before. */
export function streams(step: { readonly effect: string; readonly params: Params }): boolean {
  const effect = effectOf(step.effect);
  return !effect.learn || (effect.streamsWith?.holds(completeParams(effect, step.params)) ?? false);
}

/** Whether a step counts from where its sound begins and ends. */
export function needsItsEnds(step: { readonly effect: string }): boolean {
  return effectOf(step.effect).bounded ?? false;
}

/** Ids of the recordings that a step asks for by its parameters. */
export function recordingsOf(step: { readonly effect: string; readonly params: Params }): string[] {
  const effect = byId.get(step.effect);
  const named = effect?.params.filter((p) => p.kind === "recording").map((p) => step.params[p.id]) ?? [];
  return named.filter((id): id is string => typeof id === "string" && id !== "");
}

/** The first parameter that is unknown or out of range, and why, as a sentence's end; undefined when all are right. */
export function firstFault(
  effect: EffectDescription,
  given: Readonly<Record<string, unknown>>
): { readonly id: string; readonly why: string } | undefined {
  for (const [id, value] of Object.entries(given)) {
    const param = effect.params.find((p) => p.id === id);
    if (!param) return { id, why: `${effect.name} has no parameter "${id}"` };
    const why = paramFault(param, value);
    if (why) return { id, why };
  }
  return undefined;
}

/** First fault of given parameters as a sentence; undefined when they are all right. */
export function paramsFault(
  effect: EffectDescription,
  given: Readonly<Record<string, unknown>>
): string | undefined {
  const fault = firstFault(effect, given);
  if (!fault) return undefined;
  const param = effect.params.find((p) => p.id === fault.id);
  if (!param) return `${fault.why}.`;
  return `${effect.name}: ${param.group ? param.group + ", " : ""}${param.name} ${fault.why}.`;
}

/** Effects whose name or keywords begin with, or contain, the typed letters; names first. */
export function searchEffects(typed: string): EffectDescription[] {
  const want = typed.trim().toLowerCase();
  const rank = (effect: EffectDescription): number => {
    const name = effect.name.toLowerCase();
    if (name.startsWith(want)) return 0;
    if (name.split(/\s+/).some((word) => word.startsWith(want))) return 1;
    if (effect.keywords.some((word) => word.startsWith(want))) return 2;
    return name.includes(want) ? 3 : 4;
  };
  return effects
    .map((effect) => ({ effect, rank: rank(effect) }))
    .filter((entry) => entry.rank < 4)
    .sort((a, b) => a.rank - b.rank)
    .map((entry) => entry.effect);
}
