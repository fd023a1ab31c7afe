// How long a part rings after its end, by its sound.
import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import { dbToGain } from "../units/decibels";
import { openPart } from "./partStream";
import { RING_MOST_SECONDS } from "./ringOut";
import type { SoundPart } from "./soundPart";
import type { Source } from "./source";

/** What lies so far under the largest sample of the part is over, in dB. */
export const RING_FALL_DB = -60;

/**
 * Frames after a part's end until what its steps leave ringing stays 60 dB under the part's peak, to a block of 512; 30 s at most. All frames of
 * the part must be at hand.
 * @param tick told the share that is done; throw in it to cancel
 */
export function measuredRing(
  part: SoundPart,
  source: Source,
  sampleRate: number,
  tick: (share: number) => void = () => undefined
): number {
  const end = part.length + RING_MOST_SECONDS * sampleRate;
  const block = new StereoBlock(BLOCK);
  const [l, r] = [block.left.ptr, block.right.ptr];
  const stream = openPart(part, source, sampleRate);
  let peak = 0;
  let last = 0;
  try {
    for (let at = 0; at < end;) {
      // No block lies on both sides of the part's end.
      const n = Math.min(BLOCK, (at < part.length ? part.length : end) - at);
      stream.read(l, r, n);
      const own = Math.max(kernels.peak(l, n), kernels.peak(r, n));
      at += n;
      if (at <= part.length) peak = Math.max(peak, own);
      else if (own > peak * dbToGain(RING_FALL_DB)) last = at - part.length;
      tick(at / end);
    }
    return last;
  } finally {
    stream.release();
    block.release();
  }
}
