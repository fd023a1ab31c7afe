// How alike two sounds are.
import type { Stereo } from "./clipSound";

/** Σ ab and Σ aa and Σ bb over a stretch of both channels. */
function products(
  a: Stereo,
  b: Stereo,
  from: number,
  to: number
): readonly [ab: number, aa: number, bb: number] {
  let [ab, aa, bb] = [0, 0, 0];
  for (const side of ["left", "right"] as const) {
    const [x, y] = [a[side], b[side]];
    for (let i = from; i < to; i++) {
      const [u, v] = [x[i] ?? 0, y[i] ?? 0];
      ab += u * v;
      aa += u * u;
      bb += v * v;
    }
  }
  return [ab, aa, bb];
}

/**
 * Normalized cross-correlation at lag 0, -1 to 1: Σab / √(Σa² Σb²); 0 where one is silent. It is what decides how loud a crossfade of the
 * two gets: power g² + h² + 2ghρ for sounds of one level.
 */
export function correlation(a: Stereo, b: Stereo, from = 0, to = a.left.length): number {
  const [ab, aa, bb] = products(a, b, from, to);
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}

/** Mean power of both sounds over a stretch. */
export function meanPower(a: Stereo, b: Stereo, from: number, to: number): number {
  const [, aa, bb] = products(a, b, from, to);
  return (aa + bb) / (4 * Math.max(1, to - from));
}
