// Where in a chain a repair belongs: it was found in the sound as it came, so it hears it so.
import type { Step } from "./schema";

/** In the order in which they are made: each hears what the one before has left. */
const ORDER = [
  "declip",
  "dc-removal",
  "polarity",
  "channels",
  "hum-removal",
  "click-repair",
  "plosive-removal",
  "noise-reduction",
  "gain",
  "de-esser"
];

/** How many of the steps a repair comes behind: those at the beginning that are repairs to be made before it. */
export function placeOfRepair(steps: readonly Pick<Step, "effect">[], effect: string): number {
  const rank = ORDER.indexOf(effect);
  if (rank < 0) return steps.length;
  const first = steps.findIndex((step) => {
    const other = ORDER.indexOf(step.effect);
    return other < 0 || other >= rank;
  });
  return first < 0 ? steps.length : first;
}
