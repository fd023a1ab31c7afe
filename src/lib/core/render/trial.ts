// One sound alone through a chain that is not applied to it: what is heard of a preset or a batch before it is done.
import type { Document } from "../session/document";
import { documentOf, newChain, newClip, newTrack } from "../session/make";
import { chainIdOf, stepsOfChain, withoutMix } from "../session/owners";
import type { Clip, RecipeStep, Recording } from "../session/schema";

/** A clip, or all of a recording. */
export interface TrialSound {
  readonly kind: "clip" | "recording";
  readonly id: string;
}

export interface Trial {
  readonly document: Document;
  /** Where it sounds on the timeline of that document, in frames. */
  readonly from: number;
  readonly to: number;
}

const TRACK = "trial";

/**
 * A document in which only this sounds, at full level, without the chains of its track and the mix.
 * @param steps instead of its own; null: its own
 * @param extra recordings that the steps ask for and the document does not have
 * @param gainDb beside its own gain
 * @returns undefined when the sound has gone
 */
export function trialOf(
  doc: Document,
  { kind, id }: TrialSound,
  steps: readonly RecipeStep[] | null,
  extra: readonly Recording[] = [],
  gainDb = 0
): Trial | undefined {
  const clip = kind === "clip" ? doc.get("clips", id) : wholeOf(doc, id);
  if (!clip) return undefined;
  const own = stepsOfChain(doc, clip.chain);
  const chain = steps ? steps.map((step, i) => ({ ...step, id: `trial-${i}` })) : own;
  const sound: Clip = {
    ...clip,
    track: TRACK,
    muted: false,
    gainDb: clip.gainDb + gainDb,
    chain: chain.length > 0 ? "trial" : null,
    ...(steps ? { render: null } : {})
  };
  const recordings = [...doc.values("recordings")];
  const known = new Set(recordings.map((recording) => recording.id));
  const chains = recordings.flatMap((recording) => {
    const chainId = chainIdOf("recordings", recording);
    return chainId === null ? [] : (doc.get("chains", chainId) ?? []);
  });
  const document = documentOf(withoutMix(doc.project), {
    tracks: [newTrack(TRACK, "Trial", 1)],
    clips: [sound],
    chains: [...chains, ...(chain.length > 0 ? [newChain("trial", chain)] : [])],
    recordings: [...recordings, ...extra.filter((recording) => !known.has(recording.id))]
  });
  return { document, from: sound.start, to: sound.start + sound.length };
}

function wholeOf(doc: Document, id: string): Clip | undefined {
  const recording = doc.get("recordings", id);
  return recording && recording.frames > 0 ? newClip("trial", TRACK, recording, 0) : undefined;
}
