// Which steps of two chains belong together.
import { alike } from "./equal";
import type { Step } from "./schema";

/** What a pair is worth: that both are of one effect outweighs all likeness, over the longest chain (64 steps). */
const SAME_EFFECT = 1000;
const SAME_REACH = 10;
const SAME_SETTINGS = 1;

function worth(a: Step, b: Step): number {
  if (a.effect !== b.effect) return 0;
  const reach = (a.span === null) === (b.span === null) ? SAME_REACH : 0;
  return SAME_EFFECT + reach + (alike(a.params, b.params) ? SAME_SETTINGS : 0);
}

/** Whether both have the same effects in the same order: there is but one way then. */
function inStep(a: readonly Step[], b: readonly Step[]): boolean {
  return a.length === b.length && a.every((step, i) => step.effect === b[i]?.effect);
}

/**
 * For each step of `chain` the index in `rows` of the one it belongs to, or -1.
 *
 * First those of one effect that stand in the same order in both, as many as can be (a longest common subsequence by dynamic programming); among
 * ways with as many pairs the one that pairs whole with whole and part with part, then equal settings. What stands in another order is paired with
 * the first free one of its effect.
 */
export function alignSteps(rows: readonly Step[], chain: readonly Step[]): number[] {
  if (inStep(rows, chain)) return chain.map((_, i) => i);
  const wide = chain.length + 1;
  // What rows from i on and steps from j on are worth together.
  const best = new Int32Array((rows.length + 1) * wide);
  const from = (i: number, j: number) => best[i * wide + j] ?? 0;
  const pairs = rows.map((row) => chain.map((step) => worth(row, step)));
  const pair = (i: number, j: number) => pairs[i]?.[j] ?? 0;
  for (let i = rows.length - 1; i >= 0; i--)
    for (let j = chain.length - 1; j >= 0; j--) {
      const together = pair(i, j) > 0 ? pair(i, j) + from(i + 1, j + 1) : 0;
      best[i * wide + j] = Math.max(together, from(i + 1, j), from(i, j + 1));
    }
  const found = chain.map(() => -1);
  const free = new Set(rows.keys());
  const take = (i: number, j: number) => {
    found[j] = i;
    free.delete(i);
  };
  for (let i = 0, j = 0; i < rows.length && j < chain.length;) {
    if (pair(i, j) > 0 && from(i, j) === pair(i, j) + from(i + 1, j + 1)) take(i++, j++);
    else if (from(i, j) === from(i + 1, j)) i++;
    else j++;
  }
  for (const [j, i] of found.entries()) {
    const one = i < 0 ? [...free].find((row) => pair(row, j) > 0) : undefined;
    if (one !== undefined) take(one, j);
  }
  return found;
}
