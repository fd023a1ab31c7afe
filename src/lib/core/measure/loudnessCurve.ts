// Loudness over time, for drawing: so many columns, each with the least and the largest of its values. LUFS; -Infinity is silence.
import { HOP, LoudnessSteps, MOMENTARY, SHORT_TERM } from "./loudness";

export interface LoudnessCurve {
  readonly momentaryLow: Float64Array;
  readonly momentaryHigh: Float64Array;
  readonly shortTermLow: Float64Array;
  readonly shortTermHigh: Float64Array;
  /** Integrated loudness from the start to the end of each column. */
  readonly integrated: Float64Array;
}

/** Least and largest of the values over time that end in each column; before the first there is silence. */
function spread(
  values: Float64Array,
  first: number,
  steps: number,
  columns: number
): [Float64Array, Float64Array] {
  const low = new Float64Array(columns).fill(Infinity);
  const high = new Float64Array(columns).fill(-Infinity);
  values.forEach((value, i) => {
    const column = Math.min(columns - 1, Math.floor(((first + i * HOP - 1) * columns) / steps));
    low[column] = Math.min(low[column], value);
    high[column] = Math.max(high[column], value);
  });
  for (let c = 0; c < columns; c++)
    // A column in which no value ends has that of the one before.
    if (low[c] === Infinity) {
      low[c] = c > 0 ? low[c - 1] : -Infinity;
      high[c] = c > 0 ? high[c - 1] : -Infinity;
    }
  return [low, high];
}

/** The curves of what has been added so far, in at most so many columns of equal length: no more than there are tenths of a second. */
export function loudnessCurve(steps: LoudnessSteps, most: number): LoudnessCurve {
  const columns = Math.max(0, Math.min(most, Math.floor(steps.count / HOP)));
  const [momentaryLow, momentaryHigh] = spread(steps.momentaryOverTime(), MOMENTARY, steps.count, columns);
  const [shortTermLow, shortTermHigh] = spread(steps.shortTermOverTime(), SHORT_TERM, steps.count, columns);
  const integrated = Float64Array.from({ length: columns }, (_, c) =>
    steps.integrated(Math.round(((c + 1) * steps.count) / columns))
  );
  return { momentaryLow, momentaryHigh, shortTermLow, shortTermHigh, integrated };
}
