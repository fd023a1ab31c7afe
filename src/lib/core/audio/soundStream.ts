/** Frames of a recording, [from, to). */
export interface FrameRange {
  readonly recordingId: string;
  readonly from: number;
  readonly to: number;
}

/** Sound that is read in order from a place on. */
export interface SoundStream {
  /** Writes the next n frames to two f32 blocks in the kernels' memory. Any n gives the same samples. */
  read(l: number, r: number, n: number): void;
  /** Frames of recordings that reading n more frames may take. */
  needed(n: number): readonly FrameRange[];
  /**
   * Works off up to about n frames of what must be run in before the first frame that is read. Returns whether nothing of that is left. Left out:
   * there is nothing.
   */
  warm?(n: number): boolean;
  release(): void;
}
