// A clip that is heard through chains of its own, of its recording, of its track and of the mix.
import type { Step } from "../../src/lib/core/session/schema";
import type { Document } from "../../src/lib/core/session/document";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newTrack
} from "../../src/lib/core/session/make";
import { MIX, type Owner } from "../../src/lib/core/session/owners";
import { RATE } from "./signals";

/** Frames of the recordings. */
export const FRAMES = 4 * RATE;

export function recordingOf(id: string, kind: "import" | "render" = "import") {
  const facts = { name: id, media: null, frames: FRAMES, channels: 2, sampleRate: RATE };
  return newRecording(id, { ...facts, kind });
}

/** A chain for each owner. */
export interface Chains {
  readonly clip?: readonly Step[];
  readonly recording?: readonly Step[];
  readonly track?: readonly Step[];
  readonly mix?: readonly Step[];
}

/** One clip of recording "a" on one of two tracks, with these chains. */
export function project(
  chains: Chains,
  clip: { start?: number; offset?: number; length?: number } = {}
): Document {
  const id = (steps: readonly Step[] | undefined, name: string) => (steps && steps.length > 0 ? name : null);
  const base = newProject("Test", RATE);
  return documentOf(
    { ...base, mix: { ...base.mix, chain: id(chains.mix, "cm") } },
    {
      tracks: [newTrack("t", "Voices", 1, { chain: id(chains.track, "ct") }), newTrack("u", "Music", 2)],
      clips: [
        newClip("k", "t", { id: "a", name: "a", frames: FRAMES }, clip.start ?? 0, {
          chain: id(chains.clip, "cc"),
          offset: clip.offset ?? 0,
          length: clip.length ?? FRAMES - (clip.offset ?? 0)
        })
      ],
      recordings: [{ ...recordingOf("a"), chain: id(chains.recording, "cr") }],
      chains: Object.entries({
        cc: chains.clip,
        cr: chains.recording,
        ct: chains.track,
        cm: chains.mix
      }).flatMap(([key, steps]) => (steps && steps.length > 0 ? [newChain(key, steps)] : []))
    }
  );
}

export const OWNERS: readonly (readonly [keyof Chains, Owner])[] = [
  ["clip", { table: "clips", id: "k" }],
  ["recording", { table: "recordings", id: "a" }],
  ["track", { table: "tracks", id: "t" }],
  ["mix", MIX]
];
