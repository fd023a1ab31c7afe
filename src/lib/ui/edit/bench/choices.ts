// What can be added to a chain by typing or by browsing: effects in their groups, settings of effects, saved chains.
import type { PresetView } from "$lib/api/presets";
import {
  EFFECT_GROUPS,
  type EffectDescription,
  type EffectGroup,
  type Params
} from "$lib/core/effects/description";
import { completeParams, effects, searchEffects } from "$lib/core/effects/registry";

export type Choice = { readonly id: string; readonly text: string; readonly help: string } & (
  | {
      readonly kind: "effect";
      readonly effect: EffectDescription;
      readonly params: Params;
      readonly heading: string;
    }
  | { readonly kind: "chain"; readonly preset: PresetView; readonly heading: string }
);

const GROUPS = Object.keys(EFFECT_GROUPS) as EffectGroup[];

function effectChoice(effect: EffectDescription, heading: string): Choice {
  return { kind: "effect", id: effect.id, text: effect.name, help: effect.help, effect, params: {}, heading };
}

function settingChoices(effect: EffectDescription): Choice[] {
  return effect.presets.map(({ name, params }) => ({
    kind: "effect",
    id: `${effect.id} ${name}`,
    text: `${effect.name}: ${name}`,
    help: effect.summary(completeParams(effect, params)),
    effect,
    params,
    heading: "Settings"
  }));
}

function chainChoice(preset: PresetView): Choice {
  const steps = `${preset.steps.length} step${preset.steps.length === 1 ? "" : "s"}`;
  const help = preset.notes ? `${steps}. ${preset.notes}` : steps;
  return { kind: "chain", id: preset.id, text: preset.name, help, preset, heading: "Saved chains" };
}

/** Everything, in groups: what is offered before anything is typed. */
export function allChoices(presets: readonly PresetView[]): Choice[] {
  const inGroups = GROUPS.flatMap((group) =>
    effects.filter((effect) => effect.group === group).map((e) => effectChoice(e, EFFECT_GROUPS[group]))
  );
  return [...inGroups, ...presets.map(chainChoice)];
}

/** What the typed letters mean: effects, the best first, then their settings, then saved chains. */
export function searchChoices(typed: string, presets: readonly PresetView[]): Choice[] {
  const found = searchEffects(typed);
  const want = typed.trim().toLowerCase();
  const settings = effects
    .flatMap(settingChoices)
    .filter(({ text }) => text.toLowerCase().includes(want))
    // Of an effect that is meant by its name its settings come right behind it.
    .sort((a, b) => Number(!named(a, found[0])) - Number(!named(b, found[0])));
  const chains = presets.filter(({ name, notes }) => `${name} ${notes}`.toLowerCase().includes(want));
  return [...found.map((effect) => effectChoice(effect, "Effects")), ...settings, ...chains.map(chainChoice)];
}

const named = (choice: Choice, effect: EffectDescription | undefined) =>
  choice.kind === "effect" && choice.effect === effect;
