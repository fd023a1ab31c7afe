// What recordings that are made are called: what they came from, what was done, and a number.
import { findEffect } from "../effects/registry";
import type { RecipeStep } from "./schema";
import type { Tables } from "./tables";

const MOST = 120;

/** Names of steps that are on, as "Parametric EQ, Limiter"; the first of them, and how many more there are. */
export function stepsText(steps: readonly Pick<RecipeStep, "effect" | "on">[], most = Infinity): string {
  const names = steps.filter((step) => step.on).map((step) => findEffect(step.effect)?.name ?? step.effect);
  const more = names.length - most;
  return more > 0 ? `${names.slice(0, most).join(", ")} and ${more} more` : names.join(", ");
}

/** A name with the first number behind it that no recording of the document has. */
export function numbered(doc: Tables, name: string): string {
  const taken = new Set([...doc.values("recordings")].map((recording) => recording.name));
  for (let n = 1; ; n++) {
    const end = ` ${n}`;
    const full = `${name.slice(0, MOST - end.length)}${end}`;
    if (!taken.has(full)) return full;
  }
}
