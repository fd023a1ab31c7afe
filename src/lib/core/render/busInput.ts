import type { FrameRange } from "../audio/soundStream";
import type { SoundPart } from "./soundPart";

/** What flows into a bus. */
export interface BusInput {
  /** Adds the next n ≤ BLOCK frames to two f32 blocks. */
  add(l: number, r: number, n: number): void;
  /** Frames of recordings that adding up to a position may take. */
  needed(to: number): FrameRange[];
  /** What begins to be read on the way there. */
  parts(to: number): SoundPart[];
  release(): void;
}
