/** The value below which a share of all values lies, 0 to 1, without interpolation; -Infinity when there is none. */
export function percentile(values: ArrayLike<number>, share: number): number {
  const sorted = Float64Array.from(values).sort();
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? -Infinity;
}

/** The middle value; of an even number the upper of both. */
export function median(values: ArrayLike<number>): number {
  return percentile(values, 0.5);
}
