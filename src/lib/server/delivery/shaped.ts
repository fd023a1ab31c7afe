// A spooled sound between its ends: cut, faded, with silence around it, and with a gain.
import { fadeBlock, type Fades } from "$lib/core/audio/fades";
import type { DeliverySettings } from "$lib/core/delivery/settings";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { dbToGain } from "$lib/core/units/decibels";
import { eachBlock } from "../media/eachBlock";
import { WavFile } from "../media/wavFile";

const BLOCK_FRAMES = 1 << 14;

/** First frame and the one behind the last in which a channel reaches a level; the whole when none does. */
function audible(file: WavFile, belowDb: number): readonly [from: number, to: number] {
  const least = dbToGain(belowDb);
  const { channels, frames } = file.layout;
  let [from, to] = [frames, 0];
  eachBlock(file, (planar, stride, n, at) => {
    for (let c = 0; c < channels; c++) {
      const samples = planar.f32.subarray((c * stride) / 4, (c * stride) / 4 + n);
      const first = samples.findIndex((x) => Math.abs(x) >= least);
      if (first < 0) continue;
      from = Math.min(from, at + first);
      to = Math.max(to, at + 1 + samples.findLastIndex((x) => Math.abs(x) >= least));
    }
  });
  return to > from ? [from, to] : [0, frames];
}

/** Takes planar f32: channel c at `src + c × stride` bytes. */
export type Take = (src: number, stride: number, frames: number) => void;

export class ShapedSound {
  readonly channels: number;
  readonly sampleRate: number;
  /** Frames of the sound that are cut away in front. */
  readonly cut: number;
  /** Frames of silence in front. */
  readonly before: number;
  /** Frames with all that is put around them. */
  readonly frames: number;
  readonly #file: WavFile;
  readonly #end: number;
  readonly #fades: Fades;

  constructor(
    file: string,
    settings: Pick<DeliverySettings, "trimBelowDb" | "silenceBefore" | "silenceAfter" | "fadeIn" | "fadeOut">
  ) {
    this.#file = new WavFile(file);
    const { channels, sampleRate, frames } = this.#file.layout;
    const [from, to] =
      settings.trimBelowDb === null ? [0, frames] : audible(this.#file, settings.trimBelowDb);
    const count = (seconds: number) => Math.round(seconds * sampleRate);
    const length = to - from;
    const fade = (seconds: number) => ({
      length: Math.min(length, count(seconds)),
      shape: { curve: "smooth" as const }
    });
    this.channels = channels;
    this.sampleRate = sampleRate;
    this.cut = from;
    this.before = count(settings.silenceBefore);
    this.frames = this.before + length + count(settings.silenceAfter);
    this.#end = this.before + length;
    this.#fades = { length, fadeIn: fade(settings.fadeIn), fadeOut: fade(settings.fadeOut) };
  }

  /** Reads all of it with a gain. */
  read(gainDb: number, take: Take, tick: (share: number) => void): void {
    const stride = BLOCK_FRAMES * 4;
    const planar = new KernelBuffer(stride * 2);
    const [l, r] = [planar.ptr, planar.ptr + stride];
    const gain = dbToGain(gainDb);
    try {
      for (let at = 0; at < this.frames;) {
        const within = at >= this.before && at < this.#end;
        const until = at < this.before ? this.before : within ? this.#end : this.frames;
        const n = Math.min(BLOCK_FRAMES, until - at);
        planar.f32.fill(0);
        if (within) {
          const position = at - this.before;
          this.#file.read(this.cut + position, n, l, stride);
          fadeBlock(this.#fades, position, l, r, n);
          if (gainDb !== 0) for (const address of [l, r]) kernels.gain(address, n, gain);
        }
        take(l, stride, n);
        at += n;
        tick(at / this.frames);
      }
    } finally {
      planar.release();
    }
  }

  close(): void {
    this.#file.close();
  }
}
