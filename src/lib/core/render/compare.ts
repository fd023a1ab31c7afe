// What is heard instead of the document as it is: other chains, at another level, or only what a chain changes.
import type { Change } from "../session/changes";
import type { Document } from "../session/document";
import { newChain, newStep } from "../session/make";
import { stepsOfOwner, withChain, type Owner } from "../session/owners";
import type { Step } from "../session/schema";
import { DIFFERENCE } from "../effects/difference";

/** A way in which owners of chains are heard. */
export interface Heard {
  readonly owners: readonly Owner[];
  /** The steps instead of their own; null: their own, rendered where they are. */
  readonly steps: readonly Step[] | null;
  /** Gain in dB beside their own: what brings candidates to the same loudness. */
  readonly gainDb: number;
  /** Whether only what the steps change is heard, alone: after minus before. */
  readonly difference: boolean;
}

export interface Levels {
  readonly integratedLufs: number;
  readonly truePeakDbtp: number;
}

/** True peak to which a quieter candidate may be raised, in dBTP. */
const CEILING_DBTP = -1;

/**
 * The gains in dB that make candidates as loud as one of them, which is left as it is; where another cannot be raised so far without passing
 * -1 dBTP, all are as loud as that one can be. So nothing jumps and nothing clips. 0 for all as long as one is not known or silent.
 */
export function equalGains(candidates: readonly (Levels | undefined)[], own: number): number[] {
  const known = candidates.flatMap((c) => (c && Number.isFinite(c.integratedLufs) ? [c] : []));
  if (known.length < candidates.length || !known[own]) return candidates.map(() => 0);
  const highest = known.map((c) => c.integratedLufs + Math.max(0, CEILING_DBTP - c.truePeakDbtp));
  const target = Math.min(known[own].integratedLufs, ...highest);
  return known.map((c) => target - c.integratedLufs || 0);
}

/** The document as it is listened to. What is not compared stays the same objects. */
export function heardDocument(doc: Document, heard: Heard | null): Document {
  if (!heard || (heard.steps === null && heard.gainDb === 0 && !heard.difference)) return doc;
  const changes = heard.owners.flatMap((owner) => changesOf(doc, owner, heard));
  return doc.with(heard.difference ? [...changes, ...aloneChanges(doc, heard.owners, changes)] : changes);
}

/** Id of the chain that an owner is heard with. */
const heardId = ({ id }: Owner) => `heard-${id}`.slice(0, 64);

function changesOf(doc: Document, owner: Owner, heard: Heard): Change[] {
  const entity = doc.get(owner.table, owner.id);
  if (!entity) return [];
  const own = heard.steps ?? (heard.difference ? stepsOfOwner(doc, owner) : null);
  const steps = own && heard.difference ? [...own, newStep("heard-difference", DIFFERENCE)] : own;
  const chain = steps && steps.length > 0 ? newChain(heardId(owner), steps) : null;
  const bare = steps ? withChain(owner.table, entity, chain && chain.id) : entity;
  return [
    ...(chain ? [{ table: "chains" as const, id: chain.id, before: null, after: chain }] : []),
    ...gained(doc, owner, bare, heard.gainDb, steps !== null)
  ];
}

/** The owner with a gain more; without its render where it is heard with other steps. */
function gained(doc: Document, owner: Owner, entity: object, gain: number, live: boolean): Change[] {
  const before = doc.get(owner.table, owner.id) ?? null;
  const change = (after: object): Change => ({ ...owner, before, after }) as Change;
  switch (owner.table) {
    case "clips": {
      const clip = entity as { gainDb: number };
      return [change({ ...clip, gainDb: clip.gainDb + gain, ...(live ? { render: null } : {}) })];
    }
    case "tracks": {
      const track = entity as { gainDb: number };
      return [change({ ...track, gainDb: track.gainDb + gain })];
    }
    case "project": {
      const project = entity as { mix: { gainDb: number } };
      return [change({ ...project, mix: { ...project.mix, gainDb: project.mix.gainDb + gain } })];
    }
    case "recordings": {
      // A recording has no gain of its own: the clips that show it get it.
      const own = live ? [change(entity)] : [];
      if (gain === 0 || doc.uses("recordings", owner.id) === 0) return own;
      const clips = [...doc.values("clips")].filter((clip) => clip.content.recordingId === owner.id);
      return [
        ...own,
        ...clips.map((clip): Change => ({
          table: "clips",
          id: clip.id,
          before: clip,
          after: { ...clip, gainDb: clip.gainDb + gain }
        }))
      ];
    }
  }
}

/** Solo for the tracks of what is heard, and no other clip on them: a difference is heard alone. Nothing for the mix. */
function aloneChanges(doc: Document, owners: readonly Owner[], made: readonly Change[]): Change[] {
  const clips = new Set(owners.filter(({ table }) => table === "clips").map(({ id }) => id));
  const own = owners.filter(({ table }) => table === "recordings").map(({ id }) => id);
  for (const clip of own.length > 0 ? doc.values("clips") : [])
    if (own.includes(clip.content.recordingId)) clips.add(clip.id);
  const tracks = new Set(owners.filter(({ table }) => table === "tracks").map(({ id }) => id));
  for (const id of clips) {
    const track = doc.get("clips", id)?.track;
    if (track !== undefined) tracks.add(track);
  }
  if (tracks.size === 0) return [];
  const out: Change[] = [];
  for (const track of doc.values("tracks")) {
    const now = made.find((c) => c.table === "tracks" && c.id === track.id)?.after ?? track;
    const solo = tracks.has(track.id);
    if (track.solo !== solo)
      out.push({ table: "tracks", id: track.id, before: track, after: { ...now, solo } } as Change);
  }
  if (clips.size > 0)
    for (const clip of doc.values("clips"))
      if (tracks.has(clip.track) && !clips.has(clip.id) && !clip.muted)
        out.push({ table: "clips", id: clip.id, before: clip, after: { ...clip, muted: true } });
  return out;
}
