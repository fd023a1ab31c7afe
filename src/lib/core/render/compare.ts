import type { Document } from "../session/document";

/** What is heard of a clip instead of its treated sound. */
export interface Comparison {
  readonly clipIds: readonly string[];
  readonly listen: "before" | "after";
  /** Gains in dB that bring both to the same loudness; 0 for both when they are not wanted. */
  readonly beforeGainDb: number;
  readonly afterGainDb: number;
}

/**
 * The gains that make before and after equally loud. The quieter one is raised, but only as far as its true peak allows;
 * for the rest the louder one is lowered. So nothing jumps and nothing clips.
 */
export function equalLoudnessGains(
  before: Levels,
  after: Levels
): Pick<Comparison, "beforeGainDb" | "afterGainDb"> {
  const difference = after.integratedLufs - before.integratedLufs;
  if (!Number.isFinite(difference)) return { beforeGainDb: 0, afterGainDb: 0 };
  const quieter = difference > 0 ? before : after;
  const room = Math.max(0, CEILING_DBTP - quieter.truePeakDbtp);
  const raise = Math.min(Math.abs(difference), room);
  const lower = raise - Math.abs(difference);
  return difference > 0
    ? { beforeGainDb: raise, afterGainDb: lower || 0 }
    : { beforeGainDb: lower || 0, afterGainDb: raise };
}

interface Levels {
  readonly integratedLufs: number;
  readonly truePeakDbtp: number;
}

const CEILING_DBTP = -1;

/** The document with the compared clips as they are listened to. Untouched clips stay the same objects. */
export function comparedDocument(doc: Document, comparison: Comparison | null): Document {
  if (!comparison || (comparison.listen === "after" && comparison.afterGainDb === 0)) return doc;
  const before = comparison.listen === "before";
  const gain = before ? comparison.beforeGainDb : comparison.afterGainDb;
  return doc.with(
    comparison.clipIds.flatMap((id) => {
      const clip = doc.get("clips", id);
      if (!clip) return [];
      const bare = before ? { chain: null, render: null } : {};
      const after = { ...clip, gainDb: clip.gainDb + gain, ...bare };
      return [{ table: "clips" as const, id, before: clip, after }];
    })
  );
}
