import { kernels } from "../kernels/instance";

/**
 * The two sections of the K-weighting for any sample rate: the standard's 48 kHz filters traced back to their analogue
 * parameters and transformed bilinearly (as in libebur128, MIT). Ten numbers: b0 b1 b2 a1 a2 twice.
 */
export function kWeighting(sampleRate: number): number[] {
  const shelf = (() => {
    const k = kernels.tan((Math.PI * 1681.974450955533) / sampleRate);
    const q = 0.7071752369554196;
    const high = kernels.pow(10, 3.999843853973347 / 20);
    const band = kernels.pow(high, 0.4996667741545416);
    const a0 = 1 + k / q + k * k;
    return [
      (high + (band * k) / q + k * k) / a0,
      (2 * (k * k - high)) / a0,
      (high - (band * k) / q + k * k) / a0,
      (2 * (k * k - 1)) / a0,
      (1 - k / q + k * k) / a0
    ];
  })();
  const k = kernels.tan((Math.PI * 38.13547087602444) / sampleRate);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return [...shelf, 1, -2, 1, (2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0];
}
