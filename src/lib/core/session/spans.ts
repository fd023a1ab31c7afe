import type { Owner } from "./owners";
import type { Clip } from "./schema";
import type { Tables } from "./tables";

interface Range {
  readonly from: number;
  readonly to: number;
}

/**
 * The part of an owner's sound that lies within a range of the timeline, in the measure of its spans: frames of the recording for
 * clips, of the timeline for tracks and the mix. Undefined when none does: a recording has no place on the timeline.
 */
export function spanWithin(doc: Tables, owner: Owner, range: Range): Range | undefined {
  if (owner.table === "recordings" || range.to <= range.from) return undefined;
  if (owner.table !== "clips") return { from: range.from, to: range.to };
  const clip = doc.get("clips", owner.id);
  return clip && spanOfClip(clip, range);
}

function spanOfClip({ start, offset, length }: Clip, range: Range): Range | undefined {
  const from = Math.max(range.from, start);
  const to = Math.min(range.to, start + length);
  return to > from ? { from: from - start + offset, to: to - start + offset } : undefined;
}

/** Position, in the measure of spans, of frame 0 of the timeline for this owner: a clip's spans lie on its recording. */
export function spanOrigin(doc: Tables, owner: Owner): number {
  const clip = owner.table === "clips" ? doc.get("clips", owner.id) : undefined;
  return clip ? clip.offset - clip.start : 0;
}
