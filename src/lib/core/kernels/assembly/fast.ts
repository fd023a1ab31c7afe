// Logarithm and power of two for gains: error below 1e-9, many times faster than the exact ones, the same bits everywhere.
const LN2: f64 = 0.6931471805599453;
const INV_LN2: f64 = 1.4426950408889634;

/** log2(x) for normal x > 0: exponent and the series of atanh for the mantissa in [√½, √2). */
// @ts-ignore: decorator
@inline export function fastLog2(x: f64): f64 {
  let bits = reinterpret<u64>(x);
  let e = <i32>(bits >> 52) - 1023;
  bits = (bits & 0x000fffffffffffff) | 0x3ff0000000000000;
  let m = reinterpret<f64>(bits);
  if (m > 1.4142135623730951) {
    m *= 0.5;
    e += 1;
  }
  const z = (m - 1.0) / (m + 1.0), y = z * z;
  const s = 1.0 + y * (0.3333333333333333 + y * (0.2 + y * (0.14285714285714285 + y * (0.1111111111111111 + y * 0.09090909090909091))));
  return <f64>e + 2.0 * INV_LN2 * z * s;
}

/** 2^x for |x| < 1000: exponent and the Taylor series for the fraction in [-½, ½]. */
// @ts-ignore: decorator
@inline export function fastExp2(x: f64): f64 {
  const whole = Math.floor(x + 0.5);
  const f = (x - whole) * LN2;
  const s = 1.0 + f * (1.0 + f * (0.5 + f * (0.16666666666666666 + f * (0.041666666666666664 + f * (0.008333333333333333 + f * (0.001388888888888889 + f * (0.0001984126984126984 + f * 0.0000248015873015873)))))));
  return s * reinterpret<f64>(<u64>(<i64>whole + 1023) << 52);
}

/** fastLog2 for tests. */
export function log2(x: f64): f64 {
  return fastLog2(x);
}

/** fastExp2 for tests. */
export function exp2(x: f64): f64 {
  return fastExp2(x);
}
