// Two clips that sound at the same time, one on each side: what becomes of them in mono is the worst that panning can make of them.
import type { Document } from "../session/document";
import { documentOf, newChain, newStep, newTrack } from "../session/make";
import { stepsOfChain, withoutMix } from "../session/owners";
import type { Clip } from "../session/schema";

export interface SideBySide {
  readonly document: Document;
  /** The stretch of the timeline in which both sound, in frames. */
  readonly from: number;
  readonly to: number;
}

/** The stretch in which two clips both sound; undefined when there is none. */
export function overlapOf(a: Clip, b: Clip): { readonly from: number; readonly to: number } | undefined {
  const from = Math.max(a.start, b.start);
  const to = Math.min(a.start + a.length, b.start + b.length);
  return to > from ? { from, to } : undefined;
}

/**
 * A document in which two clips sound alone, each folded to mono, at the levels of their tracks: the first on the left, the other on the right.
 * @returns undefined when they do not sound at the same time, or have gone
 */
export function sideBySide(doc: Document, first: string, second: string): SideBySide | undefined {
  const [a, b] = [doc.get("clips", first), doc.get("clips", second)];
  const overlap = a && b && overlapOf(a, b);
  if (!overlap) return undefined;
  const pair = [a, b];
  const gain = (clip: Clip) => doc.get("tracks", clip.track)?.gainDb ?? 0;
  const mono = (id: string) => newChain(id, [newStep(`${id}-mono`, "channels", { mode: "mono" })]);
  const recordings = [...doc.values("recordings")];
  const chains = [...pair, ...recordings].flatMap(({ chain }) =>
    chain === null ? [] : newChain(chain, stepsOfChain(doc, chain))
  );
  const document = documentOf(withoutMix(doc.project), {
    tracks: pair.map((clip, i) =>
      newTrack(`side-${i}`, `Side ${i}`, i, {
        pan: i === 0 ? -1 : 1,
        gainDb: gain(clip),
        chain: `fold-${i}`
      })
    ),
    clips: pair.map((clip, i) => ({ ...clip, track: `side-${i}`, muted: false })),
    chains: [...new Map(chains.map((chain) => [chain.id, chain])).values(), mono("fold-0"), mono("fold-1")],
    recordings
  });
  return { document, ...overlap };
}
