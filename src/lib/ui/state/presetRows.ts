// Chains, settings of effects and fades, as one list to search.
import type { FadePresetView } from "$lib/api/fades";
import type { PresetView } from "$lib/api/presets";
import { FADE_NAMES } from "$lib/core/audio/fades";
import { effectOf, findEffect } from "$lib/core/effects/registry";

export const PRESET_KINDS = ["all", "chain", "effect", "fade"] as const;
export type PresetKind = (typeof PRESET_KINDS)[number];

export type PresetRow = {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
  readonly factory: boolean;
  /** Its steps, or its curve, in words. */
  readonly what: string;
} & (
  | { readonly kind: "chain" | "effect"; readonly preset: PresetView }
  | { readonly kind: "fade"; readonly fade: FadePresetView }
);

/** A step in words, as "Limiter +24 dB". */
export function stepText(
  effect: string,
  params: Readonly<Record<string, string | number | boolean>>
): string {
  if (!findEffect(effect)) return `${effect} (unknown)`;
  const { name, summary, params: known } = effectOf(effect);
  const whole = { ...Object.fromEntries(known.map((p) => [p.id, p.default])), ...params };
  const text = summary(whole);
  return text === "" ? name : `${name} ${text}`;
}

function rowOf(preset: PresetView): PresetRow {
  const { id, name, notes, tags, factory, steps } = preset;
  const kind = steps.length === 1 ? "effect" : "chain";
  const what = steps.map((step) => findEffect(step.effect)?.name ?? step.effect).join(" → ");
  return { id, name, notes, tags, factory, what, kind, preset };
}

/** All presets, the saved ones first, each group by name. */
export function presetRows(presets: readonly PresetView[], fades: readonly FadePresetView[]): PresetRow[] {
  const rows: PresetRow[] = [
    ...presets.map(rowOf),
    ...fades.map((fade): PresetRow => {
      const { id, name, notes, tags, shape } = fade;
      const bend = shape.bend ? `, bent ${shape.bend.toFixed(1)}` : "";
      return {
        id,
        name,
        notes,
        tags,
        factory: false,
        what: `${FADE_NAMES[shape.curve]}${bend}`,
        kind: "fade",
        fade
      };
    })
  ];
  return rows.sort((a, b) => Number(a.factory) - Number(b.factory) || a.name.localeCompare(b.name));
}

/** Those of a kind that have every typed word in their name, notes, tags or steps. */
export function foundRows(rows: readonly PresetRow[], kind: PresetKind, typed: string): PresetRow[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return rows.filter((row) => {
    if (kind !== "all" && row.kind !== kind) return false;
    const text = `${row.name} ${row.notes} ${row.tags.join(" ")} ${row.what}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}
