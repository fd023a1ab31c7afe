// Lines of gain and pan: their points, put, moved, bent and taken away.
import { curveOf, type Envelope, type EnvelopePoint } from "$lib/core/audio/envelope";
import type { Command } from "$lib/core/session/commands";
import { parseDb } from "$lib/core/units/decibels";
import { panText, parsePan } from "$lib/core/units/pan";
import { LINE_FLOOR_DB, LINE_MOST_DB, type Clip, type GainLine, type Track } from "$lib/core/session/schema";

/** What has a line: a clip its gain, a track gain or pan. */
export type LineOwner =
  { readonly kind: "clip"; readonly clip: Clip } | { readonly kind: "gain" | "pan"; readonly track: Track };

/** Smallest and largest value. */
export function limitsOf(owner: LineOwner): { readonly least: number; readonly most: number } {
  return owner.kind === "pan" ? { least: -1, most: 1 } : { least: LINE_FLOOR_DB, most: LINE_MOST_DB };
}

export function lineOf(owner: LineOwner): GainLine | null {
  if (owner.kind === "clip") return owner.clip.line ?? null;
  return (owner.kind === "gain" ? owner.track.gainLine : owner.track.panLine) ?? null;
}

/** Frames of the line at frame 0 of the timeline: a clip's line lies on its recording. */
export function lineOrigin(owner: LineOwner): number {
  return owner.kind === "clip" ? owner.clip.offset - owner.clip.start : 0;
}

/** The value where there is no line: no change of gain; the pan as it is set. */
export function restingValue(owner: LineOwner): number {
  return owner.kind === "pan" ? owner.track.pan : 0;
}

/** The command that gives a line to its owner; null takes it away. */
export function setLine(owner: LineOwner, line: GainLine | null): Command {
  if (owner.kind === "clip") return { type: "clip.set", clipIds: [owner.clip.id], line };
  return {
    type: "track.set",
    trackId: owner.track.id,
    ...(owner.kind === "gain" ? { gainLine: line } : { panLine: line })
  };
}

function sorted(points: readonly EnvelopePoint[]): GainLine["points"] {
  const byPlace = new Map<number, EnvelopePoint>();
  for (const point of points) byPlace.set(point.at, point);
  return [...byPlace.values()].sort((a, b) => a.at - b.at);
}

/** A line with one more point, on it or at a value. */
export function withPoint(owner: LineOwner, at: number, value?: number): GainLine {
  const line = lineOf(owner);
  const now = line ? curveOf(line as Envelope).at(at) : restingValue(owner);
  const { least, most } = limitsOf(owner);
  const point = { at: Math.max(0, Math.round(at)), value: Math.min(most, Math.max(least, value ?? now)) };
  return { join: line?.join ?? "straight", points: sorted([...(line?.points ?? []), point]) };
}

/** A line with a point moved: it does not pass its neighbours. */
export function withMoved(
  owner: LineOwner,
  line: GainLine,
  index: number,
  at: number,
  value: number
): GainLine {
  const { least, most } = limitsOf(owner);
  const before = (line.points[index - 1]?.at ?? -1) + 1;
  const after = (line.points[index + 1]?.at ?? Infinity) - 1;
  const points = line.points.map((point, i) =>
    i === index
      ? {
          ...point,
          at: Math.round(Math.max(before, Math.min(after, Math.max(0, at)))),
          value: Math.round(Math.min(most, Math.max(least, value)) * 100) / 100
        }
      : point
  );
  return { ...line, points };
}

/** A line without a point; null when it was the last. */
export function withoutPoint(line: GainLine, index: number): GainLine | null {
  const points = line.points.filter((_, i) => i !== index);
  return points.length > 0 ? { ...line, points } : null;
}

/** A line with the way behind a point bent. */
export function withBend(line: GainLine, index: number, bend: number): GainLine {
  const set = Math.round(Math.max(-10, Math.min(10, bend)) * 10) / 10;
  return { ...line, points: line.points.map((point, i) => (i === index ? { ...point, bend: set } : point)) };
}

/** Where 0 dB lies between the bottom, 0, and the top, 1. */
const UNITY = 0.75;

/** Height of a value between bottom, 0, and top, 1: gains by the square root of their ratio, so that what is quiet has room. */
export function heightOf(owner: LineOwner, value: number): number {
  if (owner.kind === "pan") return (1 - value) / 2;
  if (value >= 0) return UNITY + ((1 - UNITY) * value) / LINE_MOST_DB;
  return value <= LINE_FLOOR_DB ? 0 : UNITY * 10 ** (value / 40);
}

/** The value at a height. */
export function valueAt(owner: LineOwner, height: number): number {
  const h = Math.max(0, Math.min(1, height));
  if (owner.kind === "pan") return 1 - 2 * h;
  if (h >= UNITY) return ((h - UNITY) / (1 - UNITY)) * LINE_MOST_DB;
  return h <= 0 ? LINE_FLOOR_DB : Math.max(LINE_FLOOR_DB, 40 * Math.log10(h / UNITY));
}

/** A value as it is written. */
export function valueText(owner: LineOwner, value: number): string {
  if (owner.kind === "pan") return panText(value);
  return value <= LINE_FLOOR_DB ? "-∞ dB" : `${value > 0 ? "+" : ""}${value.toFixed(1)} dB`;
}

/** A typed value: a gain in decibels, or a pan as L30, R100, C. Undefined when it is none. */
export function valueOf(owner: LineOwner, text: string): number | undefined {
  if (owner.kind === "pan") return parsePan(text);
  return /^\s*-?(∞|inf)/i.test(text) ? LINE_FLOOR_DB : parseDb(text);
}
