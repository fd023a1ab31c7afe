// Small operations on the lanes of a vector, for several kernels. Nothing here is exported from the binary.

/** Four values in the opposite order. */
// @ts-ignore: decorator
@inline export function reversed(x: v128): v128 {
  return i32x4.shuffle(x, x, 3, 2, 1, 0);
}

// @ts-ignore: decorator
@inline export function half(x: v128): v128 {
  return f32x4.mul(x, f32x4.splat(0.5));
}

/** Sum of the four lanes. */
// @ts-ignore: decorator
@inline export function across(x: v128): f32 {
  const y = f32x4.add(x, i32x4.shuffle(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(y, 0) + f32x4.extract_lane(y, 1);
}

/** Greatest of the four lanes. */
// @ts-ignore: decorator
@inline export function greatest(x: v128): f32 {
  const y = f32x4.pmax(x, i32x4.shuffle(x, x, 2, 3, 0, 1));
  return f32x4.extract_lane(f32x4.pmax(y, i32x4.shuffle(y, y, 1, 0, 3, 2)), 0);
}

/** Values so small that what decays from them would become denormal are set to zero. */
// @ts-ignore: decorator
@inline export function quiet(x: v128): v128 {
  return v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(1e-20)));
}

/** Four f32 as the sum of two pairs of f64. */
// @ts-ignore: decorator
@inline export function widened(x: v128): v128 {
  return f64x2.add(f64x2.promote_low_f32x4(x), f64x2.promote_low_f32x4(i64x2.shuffle(x, x, 1, 1)));
}
