import type { Clip, RecipeStep, Step } from "./schema";

/** What a clip's hem shows. */
export type ClipState = "untreated" | "live" | "rendered" | "stale" | "off";

/** A step without its identity: what a render depends on. */
export function recipeOf(steps: readonly Step[]): RecipeStep[] {
  return steps.map((s) => ({ effect: s.effect, on: s.on, params: { ...s.params } }));
}

function same(a: RecipeStep, b: RecipeStep): boolean {
  if (a.effect !== b.effect || a.on !== b.on) return false;
  const keys = new Set([...Object.keys(a.params), ...Object.keys(b.params)]);
  return [...keys].every((key) => a.params[key] === b.params[key]);
}

/** Whether the render still is what the clip's first steps would give, and covers the clip's window. */
export function renderMatches(clip: Clip): boolean {
  const render = clip.render;
  if (!render) return false;
  const begin = clip.offset - render.origin;
  if (begin < 0 || begin + clip.length > render.frames) return false;
  return (
    render.steps.length <= clip.steps.length && render.steps.every((step, i) => same(step, clip.steps[i]))
  );
}

/** How many of the clip's first steps are heard from its render: none when it has no render or no longer matches. */
export function renderedSteps(clip: Clip): number {
  return renderMatches(clip) ? (clip.render?.steps.length ?? 0) : 0;
}

export function clipState(clip: Clip): ClipState {
  if (clip.render) {
    if (!renderMatches(clip)) return "stale";
    const later = clip.steps.slice(clip.render.steps.length);
    return later.some((s) => s.on) ? "live" : "rendered";
  }
  if (clip.steps.length === 0) return "untreated";
  return clip.steps.some((s) => s.on) ? "live" : "off";
}
