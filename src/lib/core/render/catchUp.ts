// Sound that is to take another's place while that plays on: run in, and read up to where the other is.
import { BLOCK, type StereoBlock } from "../audio/block";
import type { SoundStream } from "../audio/soundStream";

// So long it may take: what is dearer than the machine allows would never be heard.
export const PATIENCE_SECONDS = 2;

/**
 * Does some of it: up to about n frames of run-in, then n of reading.
 * @param at position of the stream's next frame
 * @param to position up to which it is to be read
 * @param scratch takes what nobody hears
 * @returns position of its next frame now; undefined as long as it is being run in
 */
export function catchUp(
  stream: SoundStream,
  at: number,
  to: number,
  n: number,
  { left, right }: StereoBlock
): number | undefined {
  if (!(stream.warm?.(n) ?? true)) return undefined;
  const end = Math.min(to, at + n);
  let next = at;
  while (next < end) {
    const m = Math.min(BLOCK, end - next);
    stream.read(left.ptr, right.ptr, m);
    next += m;
  }
  return next;
}
