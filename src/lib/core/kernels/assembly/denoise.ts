// Gains of a spectral noise reduction: Wiener rule on the decision-directed a-priori signal-to-noise ratio.
// Y. Ephraim, D. Malah, "Speech enhancement using a minimum mean-square error short-time spectral amplitude estimator",
// IEEE Trans. ASSP 32 (1984), equation 51; the rule: P. Scalart, J. Vieira Filho, ICASSP 1996.
//
// power, noise, past, gains: `bins` f32. past: clean power over noise of the frame before. memory: share of the past (0 .. 1). floor: least gain.

/** Gains of one frame; `past` is brought up to date. bins: a multiple of 4. */
export function denoiseGains(power: usize, noise: usize, past: usize, gains: usize, bins: usize, memory: f32, floor: f32): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), keep = f32x4.splat(memory), fresh = f32x4.splat(1 - memory);
  const least = f32x4.splat(floor), top = f32x4.splat(1e6);
  for (let o: usize = 0; o < bins << 2; o += 16) {
    const posterior = f32x4.min(top, f32x4.div(v128.load(power + o), v128.load(noise + o)));
    const now = f32x4.max(zero, f32x4.sub(posterior, one));
    const prior = f32x4.add(f32x4.mul(keep, v128.load(past + o)), f32x4.mul(fresh, now));
    const g = f32x4.div(prior, f32x4.add(one, prior));
    v128.store(past + o, f32x4.mul(f32x4.mul(g, g), posterior));
    v128.store(gains + o, f32x4.max(least, g));
  }
}

/** out[k] = ¼ in[k - 1] + ½ in[k] + ¼ in[k + 1]; the ends stay. */
export function smoothBins(src: usize, dst: usize, bins: usize): void {
  store<f32>(dst, load<f32>(src));
  for (let k: usize = 1; k + 1 < bins; k++) {
    const p = src + (k << 2);
    store<f32>(dst + (k << 2), 0.25 * load<f32>(p - 4) + 0.5 * load<f32>(p) + 0.25 * load<f32>(p, 4));
  }
  store<f32>(dst + ((bins - 1) << 2), load<f32>(src + ((bins - 1) << 2)));
}
