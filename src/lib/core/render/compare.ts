import type { Document } from "../session/document";
import type { Owner } from "../session/owners";
import type { Change } from "../session/changes";

/** What is heard of an owner's sound instead of its treated one. */
export interface Comparison {
  readonly owner: Owner;
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

/** The document with the compared owner as it is listened to. What is not compared stays the same objects. */
export function comparedDocument(doc: Document, comparison: Comparison | null): Document {
  if (!comparison || (comparison.listen === "after" && comparison.afterGainDb === 0)) return doc;
  return doc.with(changesOf(doc, comparison));
}

function changesOf(doc: Document, { owner, listen, beforeGainDb, afterGainDb }: Comparison): Change[] {
  const before = listen === "before";
  const gain = before ? beforeGainDb : afterGainDb;
  switch (owner.table) {
    case "clips": {
      const clip = doc.get("clips", owner.id);
      if (!clip) return [];
      const bare = before ? { chain: null, render: null } : {};
      return [changed("clips", clip, { ...clip, gainDb: clip.gainDb + gain, ...bare })];
    }
    case "tracks": {
      const track = doc.get("tracks", owner.id);
      if (!track) return [];
      const bare = before ? { chain: null } : {};
      return [changed("tracks", track, { ...track, gainDb: track.gainDb + gain, ...bare })];
    }
    case "project": {
      const { project } = doc;
      const bare = before ? { chain: null } : {};
      const mix = { ...project.mix, gainDb: project.mix.gainDb + gain, ...bare };
      return [changed("project", project, { ...project, mix })];
    }
    case "recordings":
      return changesOfRecording(doc, owner.id, before, gain);
  }
}

/** A recording has no gain of its own: the clips that show it get it. */
function changesOfRecording(doc: Document, id: string, before: boolean, gain: number): Change[] {
  const recording = doc.get("recordings", id);
  if (!recording) return [];
  const bare = before ? [changed("recordings", recording, { ...recording, chain: null })] : [];
  if (gain === 0) return bare;
  const clips = [...doc.values("clips")].filter((clip) => clip.content.recordingId === id);
  return [...bare, ...clips.map((clip) => changed("clips", clip, { ...clip, gainDb: clip.gainDb + gain }))];
}

function changed<T extends Change["after"] & object>(table: Change["table"], before: T, after: T): Change {
  return { table, id: before.id, before, after };
}
