import type { Spool, Samples } from "../effects/description";
import type { LearntStore } from "./lessons";

/** Where streams take the samples of recordings from. */
export interface Source {
  /**
   * Fills two f32 blocks in the kernels' memory with frames of a recording at the project's rate, folded to stereo.
   * Frames outside the recording are silence. Synchronous: the caller has made sure that they are at hand.
   * @throws when the recording or its frames cannot be had.
   */
  read(recordingId: string, from: number, frames: number, left: number, right: number): void;
  /** The whole sound of a short recording, for effects that ask for one; undefined when it is not at hand. */
  sound?(recordingId: string): Samples | undefined;
  /** Channels of what is made of it: 1 when only the left is kept. 2 unless said. */
  readonly channels?: 1 | 2;
  /** Room for sound that a step must have as a whole; in memory without it. */
  spool?(): Spool;
  /** What steps have learnt, by `prePassKey`; without it everything is learnt anew each time. */
  readonly learnt?: LearntStore;
}
