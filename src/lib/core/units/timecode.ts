// SMPTE timecode. Drop-frame counting as in SMPTE ST 12-1: of each minute but every tenth the frame numbers 00 and 01 are left out, so that
// 30 numbers a second keep step with 30000/1001 frames a second.

export const TIMECODES = ["24", "25", "29.97 drop", "29.97", "30"] as const;
export type Timecode = (typeof TIMECODES)[number];

interface Rate {
  /** Frame numbers a second. */
  readonly counts: number;
  /** Frames a second, as a fraction. */
  readonly over: number;
  readonly under: number;
  readonly drop: boolean;
}

const RATES: Record<Timecode, Rate> = {
  "24": { counts: 24, over: 24, under: 1, drop: false },
  "25": { counts: 25, over: 25, under: 1, drop: false },
  "29.97 drop": { counts: 30, over: 30000, under: 1001, drop: true },
  "29.97": { counts: 30, over: 30000, under: 1001, drop: false },
  "30": { counts: 30, over: 30, under: 1, drop: false }
};

/** Frames of ten minutes and of a minute that drops two numbers. */
const TEN_MINUTES = 17982;
const DROPPED_MINUTE = 1798;

const two = (n: number) => String(n).padStart(2, "0");

/** The number of a frame as it is written, "01:00:00:02"; a semicolon before the frames where numbers are dropped. Frames from 0. */
export function frameText(frame: number, timecode: Timecode): string {
  const { counts, drop } = RATES[timecode];
  let number = frame;
  if (drop) {
    const tens = Math.floor(frame / TEN_MINUTES);
    const rest = frame % TEN_MINUTES;
    const minutes = rest < 1800 ? 0 : 1 + Math.floor((rest - 1800) / DROPPED_MINUTE);
    number = frame + 18 * tens + 2 * minutes;
  }
  const seconds = Math.floor(number / counts);
  const [h, m, s] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60];
  return `${two(h)}:${two(m)}:${two(s)}${drop ? ";" : ":"}${two(number % counts)}`;
}

/**
 * The frame of a written timecode: hours, minutes and seconds may be left out from the left. Undefined when it is none, or names a frame number
 * that is dropped.
 */
export function frameOf(text: string, timecode: Timecode): number | undefined {
  const match = /^(?:(?:(\d{1,2})[:;.])?(\d{1,2})[:;.])?(\d{1,2})[:;.](\d{1,2})$/.exec(text.trim());
  if (!match) return undefined;
  const [h, m, s, f] = match.slice(1).map((part: string | undefined) => Number(part ?? 0)) as [
    number,
    number,
    number,
    number
  ];
  const { counts, drop } = RATES[timecode];
  if (m > 59 || s > 59 || f >= counts) return undefined;
  const minutes = h * 60 + m;
  const number = (minutes * 60 + s) * counts + f;
  if (!drop) return number;
  if (s === 0 && f < 2 && m % 10 !== 0) return undefined;
  return number - 2 * (minutes - Math.floor(minutes / 10));
}

/** The frame that shows at a sample. */
export function frameAt(sample: number, sampleRate: number, timecode: Timecode): number {
  const { over, under } = RATES[timecode];
  return Math.floor((sample * over) / (under * sampleRate));
}

/** The first sample at which a frame shows. */
export function sampleOf(frame: number, sampleRate: number, timecode: Timecode): number {
  const { over, under } = RATES[timecode];
  return Math.ceil((frame * under * sampleRate) / over);
}

/** Samples of a frame, not rounded. */
export function samplesPerFrame(sampleRate: number, timecode: Timecode): number {
  const { over, under } = RATES[timecode];
  return (sampleRate * under) / over;
}
