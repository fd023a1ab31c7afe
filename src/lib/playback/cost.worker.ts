// Measures what treatment costs while it plays, off the page.
import { liveShare } from "$lib/core/render/liveCost";
import type { SoundPart } from "$lib/core/render/soundPart";

export interface ToCost {
  readonly sampleRate: number;
  readonly parts: readonly { readonly key: string; readonly part: SoundPart }[];
}
/** Shares of a core, one after the other; error: why one could not be measured. */
export type FromCost =
  { readonly key: string; readonly share: number } | { readonly key: string; readonly error: string };

onmessage = ({ data: { sampleRate, parts } }: MessageEvent<ToCost>) => {
  for (const { key, part } of parts) {
    try {
      const share = liveShare(part, sampleRate, () => performance.now());
      postMessage({ key, share } satisfies FromCost);
    } catch (error) {
      postMessage({ key, error: error instanceof Error ? error.message : String(error) } satisfies FromCost);
    }
  }
};
