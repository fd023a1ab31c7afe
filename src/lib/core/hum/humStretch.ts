// Hum in a stretch of sound: its mains, which of its lines are there, when, and their amplitudes.
//
// Thresholds: found by trial on recorded and made sound.
import { median } from "../audio/statistics";
import { LEADING_LINES, LEAST_LINES, onOff, PRESENT, stretchesOf, within } from "./humPresence";
import { lineFrames, type ChannelFrames } from "./lineFrames";
import { powerOf, trackLine, walkFor, type LineTrack } from "./lineTracker";
import { MainsClock, PERIOD, steadyClock } from "./mainsClock";
import { mainsPath, type MainsPath } from "./mainsPath";

/** Hz at which lines are looked for: sixty lines of 60 Hz lie below a third of it. */
export const HUM_RATE = 12800;
export const MOST_LINES = 60;
/** EN 50160: mains keep their frequency within 1 %. */
const TOLERANCE = 0.01;
const FIRST_STEP_HZ = 0.0025;
const SECOND_SPAN_HZ = 0.06;
const SECOND_STEP_HZ = 0.00125;
const FIRST_WALK = 0.2;
const PHASE_ROUNDS = 2;
const PHASE_LAG_SECONDS = 1;
const SURE = 20;
const MOST_SURE = 1e4;
/** Coherence of a window in which there is no hum: voices and noise reach it, as hum at the edge of what can be measured does. */
const FAINT_SCORE = 260;
const FAINT_SHARE = 0.4;
const LEAST_SECONDS = 0.6;

export interface HumChannel {
  /** Amplitudes of each line found in any channel, a value a period; zero where there is none. */
  readonly lines: readonly { readonly re: Float64Array; readonly im: Float64Array }[];
}

export interface HumStretch {
  readonly clock: MainsClock;
  /** Mean frequency, Hz. */
  readonly hertz: number;
  /** Numbers of the lines found, 1 for the mains' own. */
  readonly numbers: readonly number[];
  readonly channels: readonly HumChannel[];
  /** Where it is on, a value a period. */
  readonly on: Uint8Array;
  /** Mean power while it is on, of full scale squared, of the channels' mean. */
  readonly power: number;
}

interface Frames {
  readonly clock: MainsClock;
  readonly channels: readonly ChannelFrames[];
}

type Sound = readonly Float32Array[];

function framesBy(clock: MainsClock, sound: Sound, count: number): Frames {
  return {
    clock,
    channels: lineFrames(
      sound.map((samples) => clock.stretched(samples)),
      count
    )
  };
}

/** Straight between values at ascending places; beyond the ends as at the ends. */
function interpolated(places: ArrayLike<number>, values: ArrayLike<number>, length: number): Float64Array {
  let i = 0;
  return Float64Array.from({ length }, (_, x) => {
    while (i < places.length - 2 && places[i + 1] < x) i++;
    if (places.length === 1) return values[0];
    const share = (x - places[i]) / (places[i + 1] - places[i]);
    return values[i] + (values[i + 1] - values[i]) * Math.max(0, Math.min(1, share));
  });
}

/** The clock with offsets added that were found at frames of its own. */
function corrected(clock: MainsClock, frames: ArrayLike<number>, offsets: ArrayLike<number>): MainsClock {
  const places = Float64Array.from(frames, (p) => clock.sampleAt(p) / PERIOD);
  const change = interpolated(places, offsets, clock.hertz.length);
  return new MainsClock(
    clock.hertz.map((f, i) => f + change[i]),
    HUM_RATE
  );
}

/** The mains among `candidates` whose lines are the most coherent, followed over time. */
function findMains(
  sound: Sound,
  candidates: readonly number[],
  count: number
): Frames & { readonly near: MainsPath } {
  let best: { readonly frames: Frames; readonly path: MainsPath } | undefined;
  for (const hertz of candidates) {
    const frames = framesBy(steadyClock(hertz, sound[0].length, HUM_RATE), sound, count);
    const path = mainsPath(frames.channels, hertz, TOLERANCE * hertz, FIRST_STEP_HZ);
    if (!best || path.score > best.path.score) best = { frames, path };
  }
  if (!best) throw new RangeError("There is no mains to look for.");
  const { frames, path } = best;
  const first = framesBy(corrected(frames.clock, path.middles, path.offsets), sound, count);
  // What was far off leaked into its neighbours: once more, close by.
  const near = mainsPath(first.channels, first.clock.hertz[0], SECOND_SPAN_HZ, SECOND_STEP_HZ);
  return { ...framesBy(corrected(first.clock, near.middles, near.offsets), sound, count), near };
}

/** 1 where the mains' lines are far less coherent than elsewhere: where hum comes and goes, such moments say nothing of its lines. */
function faintFrames({ windows, middles }: MainsPath, frames: number): Uint8Array {
  const limit = Math.min(FAINT_SCORE, FAINT_SHARE * Math.max(...windows));
  const reach = Math.max(1, middles[0]);
  const faint = new Uint8Array(frames).fill(1);
  middles.forEach((middle, w) => {
    if (windows[w] >= limit)
      faint.fill(0, Math.max(0, Math.floor(middle - reach)), Math.ceil(middle + reach));
  });
  return faint;
}

/** The middle value of a track's over the frames that are not faint. */
function medianOf(track: LineTrack, faint: Uint8Array, value: (i: number) => number): number {
  return median(
    Array.from(track.re.keys())
      .filter((i) => !faint[i])
      .map(value)
  );
}

function trackAll(
  channels: readonly ChannelFrames[],
  faint: Uint8Array,
  frameSeconds: number,
  before?: LineTrack[][]
): LineTrack[][] {
  return channels.map(({ lines, silent: empty }, c) => {
    const silent = empty.map((s, i) => s | faint[i]);
    return lines.map((line, k) => {
      const known = before?.[c][k];
      if (!known) {
        const walk = (noise: Float64Array) => median(noise) * frameSeconds ** 2 * FIRST_WALK;
        return trackLine(line, walk, silent);
      }
      const power = medianOf(known, faint, (i) => powerOf(known, i));
      const walk = walkFor(power, frameSeconds);
      return trackLine(line, () => walk, silent);
    });
  });
}

/** What the lines' phases say together of the frequency, by how they turn within a second; undefined where nothing is sure. */
function phaseOffsets(
  tracks: readonly LineTrack[][],
  frameSeconds: number
): { frames: Float64Array; offsets: Float64Array } | undefined {
  const frames = tracks[0][0].re.length;
  const lag = Math.round(PHASE_LAG_SECONDS / frameSeconds);
  if (frames <= 2 * lag) return undefined;
  const sum = new Float64Array(frames - lag);
  const weights = new Float64Array(frames - lag);
  for (const channel of tracks)
    channel.forEach((track, index) => {
      const k = index + 1;
      const { re, im, variance } = track;
      const sure = (i: number) => {
        const ratio = powerOf(track, i) / Math.max(variance[i], 1e-20);
        return ratio > SURE ? Math.min(ratio, MOST_SURE) : 0;
      };
      for (let i = 0; i + lag < frames; i++) {
        const weight = Math.sqrt(sure(i) * sure(i + lag)) * k * k;
        if (weight === 0) continue;
        const j = i + lag;
        const angle = Math.atan2(im[j] * re[i] - re[j] * im[i], re[j] * re[i] + im[j] * im[i]);
        sum[i] += (angle / k) * weight;
        weights[i] += weight;
      }
    });
  const hertz = (i: number) =>
    weights[i] < 1e-6 ? 0 : sum[i] / Math.max(weights[i], 1e-9) / (2 * Math.PI * lag * frameSeconds);
  return {
    frames: Float64Array.from(sum, (_, i) => i + lag / 2),
    offsets: Float64Array.from(sum, (_, i) => hertz(i))
  };
}

/**
 * The hum of a stretch; undefined when there is none.
 * @param sound one or two channels at HUM_RATE
 * @param mains Hz that come into question
 * @param count lines that are looked for
 */
export function humOf(sound: Sound, mains: readonly number[], count: number): HumStretch | undefined {
  if (sound[0].length < LEAST_SECONDS * HUM_RATE) return undefined;
  const { near, ...at } = findMains(sound, mains, count);
  let { clock, channels } = at;
  const frameSeconds = 1 / clock.hertz[0];
  // Phases move by less than a frame: one more of them than there are does not matter.
  const faint = faintFrames(near, channels[0].silent.length + 1);
  let tracks = trackAll(channels, faint, frameSeconds);
  for (let round = 0; round < PHASE_ROUNDS; round++) {
    const turned = phaseOffsets(tracks, frameSeconds);
    if (!turned) break;
    ({ clock, channels } = framesBy(corrected(clock, turned.frames, turned.offsets), sound, count));
    tracks = trackAll(channels, faint, frameSeconds, tracks);
  }

  const present = tracks.map((channel) =>
    channel.map(
      (track) =>
        medianOf(track, faint, (i) => powerOf(track, i) / Math.max(track.variance[i], 1e-30)) > PRESENT
    )
  );
  const known = present.map((channel) => {
    const lead = channel.slice(0, LEADING_LINES).filter(Boolean).length;
    return lead >= LEAST_LINES ? channel : channel.map(() => false);
  });
  const pace = clock.periodsIn(sound[0].length) / (sound[0].length / HUM_RATE);
  // On the edge of what mains keep there is something else, outside.
  if (!mains.some((hertz) => Math.abs(pace / hertz - 1) < TOLERANCE)) return undefined;
  if (!known.some((channel) => channel.some(Boolean))) return undefined;

  const on = onOff(channels, tracks, known);
  for (const stretch of stretchesOf(on))
    if (!within(channels, tracks, known, stretch, frameSeconds)) on.fill(0, ...stretch);
  const frames = on.reduce((a, b) => a + b, 0);
  if (frames === 0) return undefined;

  const numbers = Array.from({ length: count }, (_, k) => k + 1).filter((k) =>
    known.some((channel) => channel[k - 1])
  );
  let power = 0;
  const found = tracks.map((channel, c) => ({
    lines: numbers.map((number) => {
      const track = channel[number - 1];
      const re = new Float64Array(on.length);
      const im = new Float64Array(on.length);
      if (known[c][number - 1])
        for (let i = 0; i < on.length; i++) {
          if (!on[i]) continue;
          // As much of it as it is sure.
          const p = powerOf(track, i);
          const share = p / (p + track.variance[i]);
          re[i] = track.re[i] * share;
          im[i] = track.im[i] * share;
          power += p / 2 / frames / tracks.length;
        }
      return { re, im };
    })
  }));
  const hertz = on.reduce((a, o, p) => (o ? a + clock.hertzAt(clock.sampleAt(p)) : a), 0) / frames;
  return { clock, hertz, numbers, channels: found, on, power };
}
