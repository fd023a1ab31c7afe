/**
 * Weights of channels in loudness, by their number, in the order of WAVE_FORMAT_EXTENSIBLE (5: L R C Ls Rs). ITU-R BS.1770-5, tables 3 and 4:
 * 1 in front and behind, 1.41 at the sides (60° to 120°), nothing for low-frequency effects.
 */
const WEIGHTS: Record<number, readonly number[]> = {
  1: [1],
  2: [1, 1],
  3: [1, 1, 1],
  4: [1, 1, 1.41, 1.41],
  5: [1, 1, 1, 1.41, 1.41],
  6: [1, 1, 1, 0, 1.41, 1.41],
  7: [1, 1, 1, 0, 1, 1.41, 1.41],
  8: [1, 1, 1, 0, 1, 1, 1.41, 1.41]
};

/** Weights for 1 to 8 channels. */
export function channelWeights(channels: number): readonly number[] {
  return WEIGHTS[channels] ?? Array.from({ length: channels }, () => 1);
}
