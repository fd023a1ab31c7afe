// What is to be known of a recording, found while its samples pass: its loudness, its overview, whether all of them are numbers.
import { kernels } from "$lib/core/kernels/instance";
import { channelWeights } from "$lib/core/measure/channelWeights";
import { Meter } from "$lib/core/measure/meter";
import { OverviewBuilder } from "./overviewFile";
import { notFinite } from "./wavFile";

export interface FindingsOptions {
  /** Where the overview is written; undefined: none is, since the samples have another rate than the project. */
  readonly overview?: string | undefined;
  /** Whether loudness is measured. */
  readonly loudness: boolean;
  /** Whether the samples were integers: all of them are numbers then. */
  readonly integers?: boolean | undefined;
}

export class Findings {
  /** Where the overview lies. */
  readonly overview: string | undefined;
  readonly #drawing: OverviewBuilder | undefined;
  readonly #meter: Meter | undefined;
  readonly #integers: boolean;
  #frames = 0;
  #open = true;

  constructor(
    private readonly channels: number,
    private readonly sampleRate: number,
    { overview, loudness, integers = false }: FindingsOptions
  ) {
    this.#integers = integers;
    this.overview = overview;
    if (overview !== undefined) this.#drawing = new OverviewBuilder(overview);
    if (loudness) this.#meter = new Meter(sampleRate, { weights: channelWeights(channels), peaks: false });
  }

  /**
   * Takes the next frames, planar f32: channel c at `planar + c × stride` bytes; as many at a time as divide 65536, but for the last.
   * @throws FileFault naming the first sample that is not a number or infinite
   */
  push(planar: number, stride: number, frames: number): void {
    const addresses = Array.from({ length: this.channels }, (_, c) => planar + c * stride);
    if (!this.#integers) this.#check(addresses, frames);
    this.#meter?.pushChannels(addresses, frames);
    this.#drawing?.push(planar, stride, this.channels, frames);
    this.#frames += frames;
  }

  #check(addresses: readonly number[], frames: number): void {
    for (const channel of addresses) {
      const bad = kernels.firstNotFinite(channel, frames);
      if (bad >= 0) throw notFinite(this.#frames + bad, this.sampleRate);
    }
  }

  /** Integrated loudness in LUFS; -Infinity for silence, and where it was not measured. */
  get loudness(): number {
    return this.#meter?.loudness().integratedLufs ?? -Infinity;
  }

  /** All has passed: the overview is whole, and synced. */
  finish(): void {
    this.#drawing?.finish();
  }

  /** Closes what is open; what was not finished is the caller's to remove. Closing twice does nothing. */
  close(): void {
    if (!this.#open) return;
    this.#open = false;
    this.#drawing?.close();
    this.#meter?.release();
  }
}
