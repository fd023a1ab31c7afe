// Where the timeline is looked at: zoom in time and in height.
import { ZOOM_MOST } from "./layout.svelte";

const MIN_FRAMES_PER_PIXEL = 1 / 16;

export class TimelineView {
  /** First frame shown. */
  left = $state(0);
  framesPerPixel = $state(4096);
  /** Width of the lanes in pixels. */
  width = $state(1000);
  /** Factor by which waveforms are drawn taller. */
  height = $state(1);

  get frames(): number {
    return this.width * this.framesPerPixel;
  }

  x(frame: number): number {
    return (frame - this.left) / this.framesPerPixel;
  }

  frameAt(x: number): number {
    return Math.max(0, Math.round(this.left + x * this.framesPerPixel));
  }

  /** Zooms by a factor around a point of the lanes. */
  zoom(factor: number, atX = this.width / 2): void {
    const anchor = this.left + atX * this.framesPerPixel;
    this.framesPerPixel = Math.min(2 ** 20, Math.max(MIN_FRAMES_PER_PIXEL, this.framesPerPixel / factor));
    this.left = Math.max(0, anchor - atX * this.framesPerPixel);
  }

  scroll(pixels: number): void {
    this.left = Math.max(0, this.left + pixels * this.framesPerPixel);
  }

  #before: { left: number; framesPerPixel: number } | undefined;

  /** Goes back to what was shown before the last jump; once more, and it is forth again. */
  back(): void {
    const before = this.#before;
    if (!before) return;
    this.#before = { left: this.left, framesPerPixel: this.framesPerPixel };
    this.left = before.left;
    this.framesPerPixel = before.framesPerPixel;
  }

  /** Shows [from, to) with a little room. */
  show(from: number, to: number): void {
    this.#before = { left: this.left, framesPerPixel: this.framesPerPixel };
    const length = Math.max(64, to - from);
    this.framesPerPixel = Math.max(MIN_FRAMES_PER_PIXEL, (length * 1.05) / this.width);
    this.left = Math.max(0, from - length * 0.02);
  }

  /** Turns the page when a frame leaves it. */
  follow(frame: number): void {
    if (frame < this.left || frame > this.left + this.frames)
      this.left = Math.max(0, frame - this.frames * 0.05);
  }

  /** Id of a track that is to be scrolled to. */
  track = $state<string | null>(null);

  /** Scrolls to a stretch of which nothing is in sight. */
  reveal(from: number, to: number): void {
    if (to <= this.left || from >= this.left + this.frames)
      this.left = Math.max(0, from - this.frames * 0.05);
  }

  taller(factor: number): void {
    this.height = Math.min(ZOOM_MOST, Math.max(1, this.height * factor));
  }
}
