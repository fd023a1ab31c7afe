// The join check: every place on the timeline that will pop, and how it is mended.
import type { Lanes } from "../session/lanes";
import { endOf } from "../session/lanes";
import { resolveClip, tracksInOrder } from "../session/lookup";
import type { Clip } from "../session/schema";
import type { Tables } from "../session/tables";
import type { Source } from "../render/source";
import { dbToGain } from "../units/decibels";
import { heardSound, wholeSound, type Stereo } from "./clipSound";
import { onsets } from "./onsets";
import { periodOf } from "./period";
import { POP_DB, PopFinder } from "./pops";

/** Fades that are longer cannot pop: they are no part of the check. Seconds. */
const SAFE_SECONDS = 0.015;
/** Lengths of fades that mend, seconds. */
const LEAST_MEND = 0.001;
const MOST_MEND = 0.01;

export type PopKind = "jump" | "shortFade" | "onset";

/** An end of a clip at which it may pop. */
export interface Edge {
  readonly track: string;
  readonly clipId: string;
  readonly edge: "in" | "out";
  /** Frame of the timeline: the clip's first, or the one behind its last. */
  readonly at: number;
}

/** A place that pops. */
export interface Pop extends Edge {
  readonly kind: PopKind;
  /** How far it rises above what masks it, dB. */
  readonly excessDb: number;
  /** Length of the fade that mends it, frames. */
  readonly mend: number;
}

/** All ends of clips that may pop, from the left: those without a fade that is long enough to be safe. */
export function edgesToCheck(doc: Tables, sampleRate: number): Edge[] {
  const safe = SAFE_SECONDS * sampleRate;
  const solo = [...doc.values("tracks")].some((track) => track.solo);
  const out: Edge[] = [];
  for (const clip of doc.values("clips")) {
    const track = doc.get("tracks", clip.track);
    if (clip.muted || !track || track.muted || (solo && !track.solo)) continue;
    if (clip.fadeIn.length < safe)
      out.push({ track: clip.track, clipId: clip.id, edge: "in", at: clip.start });
    if (clip.fadeOut.length < safe)
      out.push({ track: clip.track, clipId: clip.id, edge: "out", at: endOf(clip) });
  }
  return out.sort((a, b) => a.at - b.at || (a.clipId < b.clipId ? -1 : 1));
}

/** Adds a sound with the gain that its track gives it. */
function addTo(sum: Stereo, one: Stereo, gainDb: number): void {
  const gain = dbToGain(gainDb);
  for (const [into, from] of [
    [sum.left, one.left],
    [sum.right, one.right]
  ] as const)
    for (let i = 0; i < into.length; i++) into[i] += gain * from[i];
}

/** Looks at edges one after the other. */
export class JoinCheck {
  readonly #finder: PopFinder;
  readonly #solo: boolean;

  constructor(
    private readonly doc: Tables,
    private readonly lanes: Lanes,
    private readonly source: Source,
    private readonly sampleRate: number
  ) {
    this.#finder = new PopFinder(sampleRate);
    this.#solo = [...doc.values("tracks")].some((track) => track.solo);
  }

  /** Frames of the timeline that are looked at, to both sides of an edge. */
  get reach(): number {
    return this.#finder.reach;
  }

  /** Clips that sound around an edge: their sound must be at hand. */
  around({ at }: Pick<Edge, "at">): Clip[] {
    return tracksInOrder(this.doc).flatMap((track) =>
      track.muted || (this.#solo && !track.solo)
        ? []
        : this.lanes.overlapping(track.id, at - this.reach, at + this.reach).filter((clip) => !clip.muted)
    );
  }

  /** What pops at an edge; undefined when nothing does. */
  look(edge: Edge): Pop | undefined {
    const { doc, source, sampleRate, reach } = this;
    const clip = doc.get("clips", edge.clipId);
    if (!clip) return undefined;
    const [from, to] = [edge.at - reach, edge.at + reach];
    const silence = (): Stereo => ({ left: new Float32Array(to - from), right: new Float32Array(to - from) });
    const [own, others] = [silence(), silence()];
    const around = this.around(edge);
    for (const near of around) {
      const heard = heardSound(resolveClip(doc, near), source, sampleRate, from, to);
      const gainDb = doc.get("tracks", near.track)?.gainDb ?? 0;
      addTo(near.track === edge.track ? own : others, heard, gainDb);
    }
    // Most edges are quiet beside what surrounds them: then the sounds need not be made once more without their cut.
    const sides = this.#finder.sides(own, others, reach);
    if (this.#finder.excess(sides, own, [], reach) < POP_DB) return undefined;
    const gainDb = doc.get("tracks", edge.track)?.gainDb ?? 0;
    const wholeOf = (one: Clip) => wholeSound(resolveClip(doc, one), source, sampleRate, from, to);
    const bare = wholeOf(clip);
    const uncut = around
      .filter((near) => near.track === edge.track && near.start <= edge.at && endOf(near) >= edge.at)
      .map((near) => {
        const whole = silence();
        addTo(whole, near.id === clip.id ? bare : wholeOf(near), gainDb);
        return whole;
      });
    const excessDb = this.#finder.excess(sides, own, uncut, reach);
    if (excessDb < POP_DB) return undefined;
    const inside = edge.edge === "in" ? [reach, reach * 2] : [0, reach];
    const half = periodOf(bare, inside[0] ?? 0, inside[1] ?? reach, sampleRate) / 2;
    const fade = edge.edge === "in" ? clip.fadeIn.length : clip.fadeOut.length;
    const begins = onsets(bare, sampleRate).some(({ from: a, to: b }) => a < reach && b > reach);
    const kind = begins ? "onset" : fade > 0 ? "shortFade" : "jump";
    const least = Math.round(LEAST_MEND * sampleRate);
    const most = Math.round(MOST_MEND * sampleRate);
    // A fade that is there was too short: the next is at least twice as long.
    const mend = Math.max(least, Math.min(most, Math.max(Math.ceil(half), 2 * fade)));
    return { ...edge, kind, excessDb, mend: Math.min(mend, clip.length >> 1) };
  }

  release(): void {
    this.#finder.release();
  }
}

/** Pops by how loud they are; those of one place, of two clips that meet there, as one: the louder. */
export function inOrder(pops: readonly Pop[]): Pop[] {
  const places = new Map<string, Pop>();
  for (const pop of pops) {
    const key = `${pop.track} ${pop.at}`;
    const known = places.get(key);
    if (!known || pop.excessDb > known.excessDb) places.set(key, pop);
  }
  return [...places.values()].sort((a, b) => b.excessDb - a.excessDb);
}
