import { dependsOnPlace } from "../effects/registry";
import { alike } from "./equal";
import { chainStretch } from "./heard";
import type { ResolvedClip } from "./lookup";
import type { RecipeStep, Step, Version } from "./schema";

/** What a clip's hem shows. */
export type ClipState = "untreated" | "live" | "rendered" | "stale" | "off";

/** Steps without their identity: what a render or a preset depends on. */
export function recipeOf(steps: readonly Step[]): RecipeStep[] {
  return steps.map(({ id: _id, ...step }) => ({ ...step, params: { ...step.params } }));
}

function sameStep(a: RecipeStep, b: RecipeStep): boolean {
  return a.effect === b.effect && a.on === b.on && alike(a.params, b.params) && alike(a.span, b.span);
}

/** Whether two chains sound alike: what is off counts for nothing. */
function soundAlike(a: readonly RecipeStep[], b: readonly RecipeStep[]): boolean {
  const [x, y] = [a.filter((s) => s.on), b.filter((s) => s.on)];
  return x.length === y.length && x.every((step, i) => y[i] !== undefined && sameStep(step, y[i]));
}

/** Whether a clip rings out as when it was rendered: its closing fade is in such a render. */
function ringsAlike({ render, ringOut, fadeOut }: ResolvedClip): boolean {
  const rung = render?.rung;
  if (!ringOut || !rung) return !ringOut && !rung;
  return alike(rung.ringOut, ringOut) && alike(rung.fadeOut, fadeOut);
}

/**
 * Whether the render still is what the clip's first steps would give: the same steps, on the recording and on the clip, and the
 * clip's window lies in it. The chain must hear the stretch that it was made with where a step depends on its place in the clip.
 */
export function renderMatches(clip: ResolvedClip): boolean {
  const { render, offset, length, steps, recordingSteps } = clip;
  if (!render || !ringsAlike(clip)) return false;
  const begin = offset - render.origin;
  if (begin < 0 || begin + length > render.frames) return false;
  if (render.steps.length > steps.length) return false;
  if (!render.steps.every((step, i) => steps[i] !== undefined && sameStep(step, steps[i]))) return false;
  if (!soundAlike(render.recordingSteps ?? [], recordingSteps)) return false;
  const { window } = render;
  const heard = render.heard ?? { from: window.offset, to: window.offset + window.length };
  const now = chainStretch(clip);
  if (heard.from === now.from && heard.to === now.to) return true;
  if (render.rung) return false;
  return !render.steps.some((step) => step.on && dependsOnPlace(step));
}

/** What a version keeps of a clip as it is: its steps, and its render where that still matches. */
export function stateOf(clip: ResolvedClip): Pick<Version, "steps" | "render"> {
  return { steps: recipeOf(clip.steps), render: renderMatches(clip) ? clip.render : null };
}

/** How many of the clip's first steps are audible from its render: none when it has no render or no longer matches. */
export function renderedSteps(clip: ResolvedClip): number {
  return renderMatches(clip) ? (clip.render?.steps.length ?? 0) : 0;
}

export function clipState(clip: ResolvedClip): ClipState {
  if (clip.render) {
    if (!renderMatches(clip)) return "stale";
    const later = clip.steps.slice(clip.render.steps.length);
    return later.some((s) => s.on) ? "live" : "rendered";
  }
  if (clip.steps.length === 0) return "untreated";
  return clip.steps.some((s) => s.on) ? "live" : "off";
}
