// Least of the last `window` values of a row, for all its places at once.

// @ts-ignore: decorator
@inline function minShifted(p: usize, from: usize, to: usize, shift: usize): void {
  // Backwards, so that what is read has not been changed yet.
  let i = to;
  for (; i >= from + 4; i -= 4) {
    const o = p + ((i - 4) << 2);
    v128.store(o, f32x4.pmin(v128.load(o), v128.load(o - (shift << 2))));
  }
  for (; i > from; i--) {
    const o = p + ((i - 1) << 2);
    store<f32>(o, min(load<f32>(o), load<f32>(o - (shift << 2))));
  }
}

/** row: `past` values and n more, past ≥ window - 1. Leaves in least[past ...] the least of the last `window` of each. */
export function slidingMinimum(row: usize, least: usize, past: usize, n: usize, window: usize): void {
  const begin = past - (window - 1), end = past + n;
  memory.copy(least + (begin << 2), row + (begin << 2), (end - begin) << 2);
  let width: usize = 1;
  while (width * 2 <= window) {
    minShifted(least, begin + width * 2 - 1, end, width);
    width *= 2;
  }
  if (width < window) minShifted(least, past, end, window - width);
}
