// Hum as it is subtracted: nodes in time, between which phase and amplitudes are interpolated. As text it travels from whoever listened to whoever
// renders.
import { packed, unpacked } from "../units/packed";
import { stretchesOf } from "./humPresence";
import { HUM_RATE, type HumStretch } from "./humStretch";

/** Periods between two nodes. */
const SPACING = 10;

/** Hum of one stretch of sound. All arrays but `numbers` have a value a node, times in frames of the sound. */
export interface HumTrack {
  readonly frames: Float64Array;
  /** Periods passed at the node. */
  readonly periods: Float64Array;
  /** Periods a frame. */
  readonly pace: Float64Array;
  /** Numbers of the lines. */
  readonly numbers: readonly number[];
  /** For each channel, node and line: real part, imaginary part. */
  readonly channels: readonly Float32Array[];
}

/** Weight at a frame, 0 to 1: neighbouring stretches are faded into each other. */
export type Weight = (frame: number) => number;

/**
 * @param first frame of the sound at which the stretch began
 * @param sampleRate of the sound, Hz
 */
export function trackOf(stretch: HumStretch, first: number, sampleRate: number, weight: Weight): HumTrack {
  const { clock, numbers, channels, on } = stretch;
  const scale = sampleRate / HUM_RATE;
  const frameOf = (period: number) => first + clock.sampleAt(period) * scale;
  const periods = stretchesOf(on).flatMap(([from, to]) => {
    const nodes: number[] = from > 0 ? [from - 1] : [];
    for (let p = from; p < to - 1; p += SPACING) nodes.push(p);
    nodes.push(to - 1);
    if (to < on.length) nodes.push(to);
    return nodes;
  });
  // A gap of one period: its two edges are the same node, or cross.
  const nodes = periods.filter((p, i) => i === 0 || p > periods[i - 1]);
  return {
    frames: Float64Array.from(nodes, frameOf),
    periods: Float64Array.from(nodes),
    pace: Float64Array.from(nodes, (p) => clock.hertzAt(clock.sampleAt(p)) / sampleRate),
    numbers,
    channels: channels.map(({ lines }) => {
      const out = new Float32Array(nodes.length * numbers.length * 2);
      nodes.forEach((p, n) => {
        const share = on[p] ? weight(frameOf(p)) : 0;
        lines.forEach(({ re, im }, k) => {
          const at = (n * numbers.length + k) * 2;
          out[at] = re[p] * share;
          out[at + 1] = im[p] * share;
        });
      });
      return out;
    })
  };
}

interface TrackJson {
  readonly frames: string;
  readonly periods: string;
  readonly pace: string;
  readonly numbers: readonly number[];
  readonly channels: readonly string[];
}

export function tracksToText(tracks: readonly HumTrack[]): string {
  return JSON.stringify(
    tracks.map(({ frames, periods, pace, numbers, channels }): TrackJson => ({
      frames: packed(frames),
      periods: packed(periods),
      pace: packed(pace),
      numbers,
      channels: channels.map(packed)
    }))
  );
}

/** What `tracksToText` wrote. */
export function tracksFromText(text: string): HumTrack[] {
  return (JSON.parse(text) as TrackJson[]).map(({ frames, periods, pace, numbers, channels }) => ({
    frames: new Float64Array(unpacked(frames)),
    periods: new Float64Array(unpacked(periods)),
    pace: new Float64Array(unpacked(pace)),
    numbers,
    channels: channels.map((channel) => new Float32Array(unpacked(channel)))
  }));
}
