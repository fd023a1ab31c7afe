// Which steps of two chains belong together.
import { alike } from "./equal";
import type { Step } from "./schema";

/** What a pair is worth: that both are of one effect outweighs all likeness, over the longest chain (64 steps). */
const SAME_EFFECT = 1000;
const SAME_REACH = 10;
const SAME_SETTINGS = 1;

function worth(a: Step, b: Step): number {
  if (a.effect !== b.effect) return 0;
  const reach = (a.span === undefined) === (b.span === undefined) ? SAME_REACH : 0;
  return SAME_EFFECT + reach + (alike(a.params, b.params) ? SAME_SETTINGS : 0);
}

/** Whether all of `b` are at the place of `a`'s: nothing to look for. */
function inStep(a: readonly Step[], b: readonly Step[]): boolean {
  return (
    a.length === b.length &&
    a.every(
      (step, i) => step.effect === b[i]?.effect && (step.span === undefined) === (b[i].span === undefined)
    )
  );
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
  // best[i][j]: what rows from i on and steps from j on are worth together.
  const best = new Int32Array((rows.length + 1) * wide);
  for (let i = rows.length - 1; i >= 0; i--)
    for (let j = chain.length - 1; j >= 0; j--) {
      const pair = worth(rows[i], chain[j]);
      const together = pair > 0 ? pair + best[(i + 1) * wide + j + 1] : 0;
      best[i * wide + j] = Math.max(together, best[(i + 1) * wide + j], best[i * wide + j + 1]);
    }
  const found = chain.map(() => -1);
  const free = new Set(rows.keys());
  for (let i = 0, j = 0; i < rows.length && j < chain.length;) {
    const here = best[i * wide + j];
    const pair = worth(rows[i], chain[j]);
    if (pair > 0 && here === pair + best[(i + 1) * wide + j + 1]) {
      found[j] = i;
      free.delete(i);
      i++;
      j++;
    } else if (here === best[(i + 1) * wide + j]) i++;
    else j++;
  }
  for (const [j, step] of chain.entries()) {
    if (found[j] >= 0) continue;
    const i = [...free].find((row) => rows[row].effect === step.effect);
    if (i === undefined) continue;
    found[j] = i;
    free.delete(i);
  }
  return found;
}
