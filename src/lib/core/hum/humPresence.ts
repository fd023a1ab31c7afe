// Whether and when hum is there. It is told from voices and notes by what they do not have: at least two of its first six lines, that do not die away.
// Thresholds: found by trial on recorded and made sound.
import { median } from "../audio/statistics";
import { kernels } from "../kernels/instance";
import type { ChannelFrames, LineFrames } from "./lineFrames";
import { powerOf, trackLine, walkFor, type LineTrack } from "./lineTracker";

/** A line is there whose power is so many times its variance. */
export const PRESENT = 14;
/** So many of the leading lines must be there. */
export const LEAST_LINES = 2;
export const LEADING_LINES = 6;
/** Evidence of one frame counts so much at most, and going on or off costs so much. */
const MOST_OF_LINE = 30;
const MOST_OF_FRAME = 20;
const SWITCHING = 25;
/** A note dies away, dB a second. */
const DECAY_DB = -0.7;
const DECAY_SECONDS = 1;
/** In a sound as short as a stroke of a drum what is heard dies away, whatever is made of it. */
const STROKE_DB = -8;
const STROKE_SECONDS = 3;
/** A moment stands apart from the line from so far on; so many more may be above than below it, as a part of all. */
const APART = 0.25;
const MOST_ABOVE = 0.25;
/** What is never heard alone cannot be told from what stands beside it. */
const MOST_APART = 0.93;
/** Moments in the line's own phase, within atan(0.3): a fifth of them by chance. */
const ALIGNED = 0.3;
const MOST_ALIGNED = 0.35;
/** A line that turns against the others is a note beside them. */
const MOST_TURN_HZ = 0.12;
const TURN_SECONDS = 0.5;

/** Where hum is on: the path of two states for which the lines speak most. */
export function onOff(
  channels: readonly ChannelFrames[],
  tracks: readonly LineTrack[][],
  present: readonly boolean[][]
): Uint8Array {
  const frames = tracks[0][0].re.length;
  const evidence = new Float64Array(frames);
  channels.forEach(({ lines, silent }, c) =>
    lines.forEach(({ re, im, noise }, k) => {
      if (!present[c][k]) return;
      const track = tracks[c][k];
      for (let i = 0; i < frames; i++) {
        if (silent[i]) continue;
        const without = (re[i] ** 2 + im[i] ** 2) / noise[i];
        const within = ((re[i] - track.re[i]) ** 2 + (im[i] - track.im[i]) ** 2) / noise[i];
        evidence[i] += Math.min(without, MOST_OF_LINE) - Math.min(within, MOST_OF_LINE);
      }
    })
  );
  let [off, on] = [0, 0];
  const fromOn = new Uint8Array(frames);
  const stayed = new Uint8Array(frames);
  for (let i = 0; i < frames; i++) {
    const quiet = channels.every(({ silent }) => silent[i]);
    const e = quiet ? -MOST_OF_FRAME : Math.max(-MOST_OF_FRAME, Math.min(MOST_OF_FRAME, evidence[i]));
    fromOn[i] = Number(on - SWITCHING > off);
    stayed[i] = Number(on >= off - SWITCHING);
    [off, on] = [Math.max(off, on - SWITCHING), Math.max(on, off - SWITCHING) + e];
  }
  const path = new Uint8Array(frames);
  let state = Number(on > off);
  for (let i = frames - 1; i >= 0; i--) {
    path[i] = state;
    state = state ? stayed[i] : fromOn[i];
  }
  return path;
}

/** Beginnings and ends of stretches of ones. */
export function stretchesOf(on: Uint8Array): (readonly [from: number, to: number])[] {
  const out: [number, number][] = [];
  for (let i = 0; i < on.length; i++)
    if (on[i]) {
      const last = out[out.length - 1];
      if (last?.[1] === i) last[1] = i + 1;
      else out.push([i, i + 1]);
    }
  return out;
}

/** Slope of a line's level, dB a second. */
function slopeOf({ re, im }: Pick<LineTrack, "re" | "im">, frameSeconds: number): number {
  const middle = (re.length - 1) / 2;
  let [sum, spread] = [0, 0];
  for (let i = 0; i < re.length; i++) {
    const seconds = (i - middle) * frameSeconds;
    sum += seconds * kernels.log(re[i] ** 2 + im[i] ** 2 + 1e-18) * (10 / Math.LN10);
    spread += seconds ** 2;
  }
  return sum / spread;
}

/** How fast a line turns against the mains, Hz. */
function turnOf({ re, im }: LineTrack, frameSeconds: number): number {
  const lag = Math.min(re.length - 1, Math.round(TURN_SECONDS / frameSeconds));
  let [x, y] = [0, 0];
  for (let i = 0; i + lag < re.length; i++) {
    x += re[i + lag] * re[i] + im[i + lag] * im[i];
    y += im[i + lag] * re[i] - re[i + lag] * im[i];
  }
  return Math.atan2(y, x) / (2 * Math.PI * lag * frameSeconds);
}

/**
 * Whether other sound goes by beside a line, in any phase. A drum that is struck again and again, or a note that dies away, swells in the line's own
 * phase, or lies above its quiet end nearly always.
 */
function isSteady({ re, im }: LineFrames, track: LineTrack): boolean {
  let [balance, apart, aligned] = [0, 0, 0];
  for (let i = 0; i < re.length; i++) {
    const power = powerOf(track, i);
    const along = re[i] * track.re[i] + im[i] * track.im[i] - power;
    const across = im[i] * track.re[i] - re[i] * track.im[i];
    if (along ** 2 + across ** 2 < (APART * power) ** 2) continue;
    apart++;
    if (Math.abs(across) < ALIGNED * Math.abs(along)) aligned++;
    balance += Math.abs(along) < APART * power ? 0 : Math.sign(along);
  }
  const margin = 1 / Math.sqrt(re.length / 4);
  if (Math.abs(balance) > (MOST_ABOVE + margin) * re.length || apart > MOST_APART * re.length) return false;
  return apart < MOST_ABOVE * re.length || aligned < (MOST_ALIGNED + margin) * apart;
}

/**
 * Tracks each line anew in frames [from, to), so that nothing of what lies beside comes in. Returns whether hum is there: lines that lead, and that do
 * not die away.
 */
export function within(
  frames: readonly ChannelFrames[],
  tracks: readonly LineTrack[][],
  present: readonly boolean[][],
  [from, to]: readonly [number, number],
  frameSeconds: number
): boolean {
  let leading = 0;
  const slopes: number[] = [];
  const rawSlopes: number[] = [];
  frames.forEach(({ lines, silent }, c) => {
    let lead = 0;
    lines.forEach((line, k) => {
      if (!present[c][k]) return;
      const track = tracks[c][k];
      const part = {
        re: line.re.subarray(from, to),
        im: line.im.subarray(from, to),
        noise: line.noise.subarray(from, to)
      };
      const power = median(part.re.map((_, i) => powerOf(track, from + i)));
      const walk = walkFor(power, frameSeconds);
      const own = trackLine(part, () => walk, silent.subarray(from, to));
      if (Math.abs(turnOf(own, frameSeconds)) > MOST_TURN_HZ) {
        track.re.fill(0, from, to);
        track.im.fill(0, from, to);
        return;
      }
      track.re.set(own.re, from);
      track.im.set(own.im, from);
      track.variance.set(own.variance, from);
      const sure = median(own.re.map((_, i) => powerOf(own, i) / Math.max(own.variance[i], 1e-30)));
      if (k < LEADING_LINES && sure > PRESENT && isSteady(part, own)) lead++;
      slopes.push(slopeOf(own, frameSeconds));
      rawSlopes.push(slopeOf(part, frameSeconds));
    });
    leading = Math.max(leading, lead);
  });
  const seconds = (to - from) * frameSeconds;
  const dies =
    slopes.length > 0 &&
    seconds > DECAY_SECONDS &&
    (median(slopes) < DECAY_DB || (seconds < STROKE_SECONDS && median(rawSlopes) < STROKE_DB));
  return leading >= LEAST_LINES && !dies;
}
