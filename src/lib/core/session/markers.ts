// What the markers of a file become on the timeline.
import type { Clip, Recording } from "./schema";

/** A stretch of the timeline with a name. */
export interface Named {
  readonly name: string;
  readonly start: number;
  readonly length: number;
}

/**
 * Sections of a clip's markers: those that lie in its window. A marker without a length lasts to the next, the last one to the clip's end.
 */
export function sectionsOfMarkers(
  clip: Pick<Clip, "start" | "offset" | "length">,
  recording: Pick<Recording, "about">
): Named[] {
  const end = clip.offset + clip.length;
  const markers = [...(recording.about?.markers ?? [])].sort((a, b) => a.start - b.start);
  return markers
    .map(({ name, start, length }, i) => ({
      name: name.trim() || `Marker ${i + 1}`,
      from: Math.max(clip.offset, start),
      to: Math.min(end, length > 0 ? start + length : (markers[i + 1]?.start ?? end))
    }))
    .filter(({ from, to }) => to > from)
    .map(({ name, from, to }) => ({
      name: name.slice(0, 120),
      start: clip.start + from - clip.offset,
      length: to - from
    }));
}

/** Frame of the timeline at which a recording's first frame was recorded, at the project's rate; undefined when its file does not tell. */
export function originalStart(
  { about, sampleRate }: Pick<Recording, "about" | "sampleRate">,
  projectRate: number
): number | undefined {
  const origin = about?.origin;
  return origin === undefined || origin === null
    ? undefined
    : Math.round((origin * projectRate) / sampleRate);
}
