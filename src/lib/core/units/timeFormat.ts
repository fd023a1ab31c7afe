// How places and lengths of the timeline are written and read: a clock, samples, timecode, bars and beats.
import { formatTime, parseTime } from "./time";
import { frameAt, frameOf, frameText, sampleOf, samplesPerFrame, type Timecode } from "./timecode";

export const TIME_KINDS = ["clock", "samples", "timecode", "bars"] as const;

export interface TimeFormat {
  readonly kind: (typeof TIME_KINDS)[number];
  readonly timecode: Timecode;
  /** Beats a minute. */
  readonly tempo: number;
  /** Beats of a bar. */
  readonly beats: number;
}

/** Parts of a beat that are written. */
const TICKS = 960;

function samplesPerBeat({ tempo }: TimeFormat, sampleRate: number): number {
  return (60 * sampleRate) / tempo;
}

function barText(samples: number, sampleRate: number, format: TimeFormat, first: 0 | 1): string {
  const ticks = Math.round((samples / samplesPerBeat(format, sampleRate)) * TICKS);
  const beats = Math.floor(ticks / TICKS);
  const bar = Math.floor(beats / format.beats) + first;
  return `${bar}.${(beats % format.beats) + first}.${String(ticks % TICKS).padStart(3, "0")}`;
}

function barSamples(text: string, sampleRate: number, format: TimeFormat, first: 0 | 1): number | undefined {
  const match = /^(\d+)(?:[.:|](\d+)(?:[.:|](\d{1,3}))?)?$/.exec(text.trim());
  if (!match) return undefined;
  const bar = Number(match[1]) - first;
  const beat = Number(match[2] ?? first) - first;
  const ticks = Number(match[3] ?? 0);
  if (bar < 0 || beat < 0 || beat >= format.beats || ticks >= TICKS) return undefined;
  return Math.round((bar * format.beats + beat + ticks / TICKS) * samplesPerBeat(format, sampleRate));
}

/** A place on the timeline in samples, as it is written. */
export function placeText(samples: number, sampleRate: number, format: TimeFormat): string {
  switch (format.kind) {
    case "samples":
      return String(Math.round(samples));
    case "timecode":
      return frameText(frameAt(samples, sampleRate, format.timecode), format.timecode);
    case "bars":
      return barText(samples, sampleRate, format, 1);
    case "clock":
      return formatTime(samples / sampleRate);
  }
}

/** A length in samples, as it is written: bars and beats count from 0 then, and a clock without minutes is seconds. */
export function lengthText(samples: number, sampleRate: number, format: TimeFormat): string {
  if (format.kind === "bars") return barText(samples, sampleRate, format, 0);
  if (format.kind === "clock" && samples < 60 * sampleRate) return `${(samples / sampleRate).toFixed(3)} s`;
  return placeText(samples, sampleRate, format);
}

/** Samples of a text with a unit of its own, as "250 ms", "1:02.5" or "480 samples": read so whatever the format. */
function plainSamples(text: string, sampleRate: number, numbers: boolean): number | undefined {
  const counted = /^\s*(\d+)\s*(?:samples|smp)\s*$/i.exec(text);
  if (counted) return Number(counted[1]);
  if (!numbers && /^\s*[\d.,]+\s*$/.test(text)) return undefined;
  const seconds = parseTime(text);
  return seconds === undefined || seconds < 0 ? undefined : Math.round(seconds * sampleRate);
}

function parsed(text: string, sampleRate: number, format: TimeFormat, first: 0 | 1): number | undefined {
  switch (format.kind) {
    case "samples":
      return /^\s*\d+\s*$/.test(text) ? Number(text) : plainSamples(text, sampleRate, false);
    case "timecode": {
      const frame = frameOf(text, format.timecode);
      if (frame !== undefined) return sampleOf(frame, sampleRate, format.timecode);
      return /[:;]/.test(text) ? undefined : plainSamples(text, sampleRate, true);
    }
    case "bars":
      return barSamples(text, sampleRate, format, first) ?? plainSamples(text, sampleRate, false);
    case "clock":
      return plainSamples(text, sampleRate, true);
  }
}

/** Samples of a written place; undefined when it is none. */
export function placeOf(text: string, sampleRate: number, format: TimeFormat): number | undefined {
  return parsed(text, sampleRate, format, 1);
}

/** Samples of a written length; undefined when it is none. */
export function lengthOf(text: string, sampleRate: number, format: TimeFormat): number | undefined {
  return parsed(text, sampleRate, format, 0);
}

/** What a field for a place or a length takes, in words. */
export function takes(format: TimeFormat): string {
  switch (format.kind) {
    case "samples":
      return "a number of samples, or a time as 250 ms";
    case "timecode":
      return `a timecode as 01:02:03:04 (${format.timecode}), or a time as 62.5 s`;
    case "bars":
      return "bar.beat.part as 3.1.000, or a time as 250 ms";
    case "clock":
      return "a time, as 1:02.5 or 62.5 s";
  }
}

/** Steps of a grid in samples: the finest that is at least so wide. */
export function gridStep(least: number, sampleRate: number, format: TimeFormat): number {
  const find = (steps: readonly number[]) => steps.find((step) => step >= least) ?? steps.at(-1) ?? least;
  switch (format.kind) {
    case "samples": {
      const power = 10 ** Math.floor(Math.log10(Math.max(1, least)));
      return find([power, 2 * power, 5 * power, 10 * power]);
    }
    case "timecode": {
      const frame = samplesPerFrame(sampleRate, format.timecode);
      const second = frame * Math.round(sampleRate / frame);
      return find([frame, ...[1, 2, 5, 10, 30, 60, 300, 600, 3600].map((s) => s * second)]);
    }
    case "bars": {
      const beat = samplesPerBeat(format, sampleRate);
      return find(
        [1 / 4, 1 / 2, 1, ...[1, 2, 4, 8, 16, 64, 256].map((bars) => bars * format.beats)].map(
          (b) => b * beat
        )
      );
    }
    case "clock":
      return find(
        [
          0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1800,
          3600
        ].map((s) => s * sampleRate)
      );
  }
}
