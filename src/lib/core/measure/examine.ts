// What is wrong with a recording, from its samples alone. Each subject listens for itself; the worst that is sure comes first.
import { formatDb } from "../units/decibels";
import { channelWeights } from "./channelWeights";
import { ClippingLook } from "./examine/clipping";
import { ClickLook } from "./examine/clicks";
import { PlosiveLook, SteadyLook } from "./examine/disturbances";
import type { Finding, Look } from "./examine/finding";
import { ReverberationLook } from "./examine/reverberation";
import { SidesLook } from "./examine/sides";
import { SpectrumLook } from "./examine/spectrum";
import { Meter } from "./meter";

/** Speech and music are delivered at -14 to -27 LUFS: what lies so low was recorded too low. */
const LOW_LUFS = -38;
const WANTED_LUFS = -23;
const HEADROOM_DB = 1;

/** Loudness that is far below what anything is delivered at. */
class LowLook implements Look {
  readonly #meter: Meter;

  constructor(sampleRate: number, channels: 1 | 2) {
    this.#meter = new Meter(sampleRate, { weights: channelWeights(channels), peaks: true });
  }

  push(l: number, r: number, n: number): void {
    this.#meter.push(l, r, n);
  }

  finish(): Finding[] {
    const { integratedLufs, truePeakDbtp } = this.#meter.result();
    if (!(integratedLufs < LOW_LUFS) || !Number.isFinite(integratedLufs)) return [];
    const gain = Math.min(WANTED_LUFS - integratedLufs, -HEADROOM_DB - truePeakDbtp);
    return [
      {
        kind: "low",
        certainty: "sure",
        value: integratedLufs,
        unit: "LUFS",
        text: `Too low: ${formatDb(integratedLufs)} LUFS.`,
        places: [],
        step: { effect: "gain", params: { gainDb: Math.round(Math.min(48, Math.max(0, gain)) * 10) / 10 } }
      }
    ];
  }

  release(): void {
    this.#meter.release();
  }
}

const ORDER: readonly Finding["certainty"][] = ["sure", "likely", "possible"];

/** Listens to a whole sound, once, in blocks of at most 512 frames. */
export class Examiner {
  readonly #looks: readonly Look[];

  /**
   * @param frames frames that will come
   * @param channels of the sound: one is on both sides
   * @param loudChannels as whose its loudness is told: of one channel in a file, of two where it is heard on both sides
   */
  constructor(sampleRate: number, frames: number, channels: 1 | 2, loudChannels: 1 | 2 = channels) {
    this.#looks = [
      new LowLook(sampleRate, loudChannels),
      new ClippingLook(sampleRate),
      new SidesLook(sampleRate, frames, channels),
      new SteadyLook(sampleRate, frames),
      new ClickLook(sampleRate, frames),
      new SpectrumLook(sampleRate),
      new PlosiveLook(sampleRate, frames),
      new ReverberationLook(sampleRate)
    ];
  }

  /** Takes n ≤ 512 frames. l, r: addresses. */
  push(l: number, r: number, n: number): void {
    for (const look of this.#looks) look.push(l, r, n);
  }

  /** The findings, those that are sure first; none for a sound without fault. */
  finish(): Finding[] {
    const found = this.#looks.flatMap((look) => look.finish());
    // The edges of clipped tops are as sharp as clicks.
    const clipped = found.some(({ kind }) => kind === "clipped");
    const all = found.filter(({ kind }) => !(clipped && kind === "clicks"));
    return all.sort((a, b) => ORDER.indexOf(a.certainty) - ORDER.indexOf(b.certainty));
  }

  release(): void {
    for (const look of this.#looks) look.release();
  }
}
