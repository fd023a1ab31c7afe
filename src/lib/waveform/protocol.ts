// What the page and the worker that paints waveforms say to each other.
import type { StripWish } from "./strip";
import type { TileWish } from "./tile";

export type ToPainter =
  | { readonly type: "open"; readonly sampleRate: number }
  /** All tiles that are wanted now, the most wanted first; wishes before this one are forgotten. */
  | { readonly type: "tiles"; readonly wishes: readonly TileWish[] }
  | { readonly type: "strip"; readonly id: number; readonly wish: StripWish };

export type FromPainter<Bitmap> =
  | { readonly type: "tile"; readonly key: string; readonly bitmap: Bitmap; readonly bytes: number }
  /** The sound of a tile cannot be had now. */
  | { readonly type: "failed"; readonly key: string }
  | { readonly type: "strip"; readonly id: number; readonly peaks: Float32Array };
