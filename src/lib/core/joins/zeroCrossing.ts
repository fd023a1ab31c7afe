import type { Stereo } from "./clipSound";

/**
 * The frame nearest to one at which a sound crosses zero: its sum of both channels changes sign from the frame before, or is zero.
 * Undefined when there is none within reach.
 */
export function zeroCrossing({ left, right }: Stereo, at: number, reach: number): number | undefined {
  const value = (i: number) => (left[i] ?? 0) + (right[i] ?? 0);
  const crosses = (i: number) => {
    if (i < 1 || i >= left.length) return false;
    const [a, b] = [value(i - 1), value(i)];
    return b === 0 || a * b < 0;
  };
  for (let distance = 0; distance <= reach; distance++) {
    if (crosses(at - distance)) return at - distance;
    if (crosses(at + distance)) return at + distance;
  }
  return undefined;
}

/** The frame nearest to one at which two sounds both cross zero, in the same direction or not, within `slack` frames of each other. */
export function commonCrossing(
  a: Stereo,
  b: Stereo,
  at: number,
  reach: number,
  slack: number
): number | undefined {
  for (let distance = 0; distance <= reach; distance++)
    for (const place of distance === 0 ? [at] : [at - distance, at + distance]) {
      const first = zeroCrossing(a, place, 0);
      if (first !== undefined && zeroCrossing(b, place, slack) !== undefined) return first;
    }
  return undefined;
}
