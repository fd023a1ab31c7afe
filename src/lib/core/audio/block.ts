import { Buffer } from "../kernels/memory";

/** Frames in which all chains work. Fixed, so that the sound does not depend on how a caller cuts time into blocks. */
export const BLOCK = 512;

/** Two planar f32 channels of `frames` frames in the kernels' memory. */
export class StereoBlock {
  readonly left: Buffer;
  readonly right: Buffer;

  constructor(readonly frames: number = BLOCK) {
    this.left = new Buffer(frames * 4);
    this.right = new Buffer(frames * 4);
  }

  clear(): void {
    this.left.f32.fill(0);
    this.right.f32.fill(0);
  }

  release(): void {
    this.left.release();
    this.right.release();
  }
}
