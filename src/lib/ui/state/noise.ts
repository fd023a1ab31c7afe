import { StereoBlock, BLOCK } from "$lib/core/audio/block";
import { NoiseLearner, profileToText } from "$lib/core/effects/noiseProfile";
import { ClipStream, framesNeeded } from "$lib/core/render/clipStream";
import { partOf } from "$lib/core/render/soundPart";
import type { ResolvedClip } from "$lib/core/session/lookup";
import { ChunkStore } from "$lib/playback/chunkStore";

/** Longest stretch that is learnt from, seconds. */
const MOST_SECONDS = 20;

/**
 * A noise profile from a part of a clip, as it comes to a step: through the steps before it.
 * @param from frames after the clip's start, as `to`
 * @throws when the part holds no noise, or its sound cannot be had
 */
export async function learnNoise(
  clip: ResolvedClip,
  stepId: string,
  from: number,
  to: number,
  sampleRate: number
): Promise<string> {
  const before = clip.steps.slice(
    0,
    clip.steps.findIndex((s) => s.id === stepId)
  );
  const bare: ResolvedClip = { ...clip, steps: before, render: null, gainDb: 0 };
  const end = Math.min(to, from + MOST_SECONDS * sampleRate);
  const store = new ChunkStore(sampleRate);
  await store.prepare([partOf(bare)], () => true);
  await store.ensure([framesNeeded(bare, sampleRate, from, end)]);
  const stream = new ClipStream(bare, store, sampleRate, from, { shaped: false });
  const learner = new NoiseLearner(sampleRate, false);
  const block = new StereoBlock();
  for (let at = from; at < end; at += BLOCK) {
    const n = Math.min(BLOCK, end - at);
    stream.read(block.left.ptr, block.right.ptr, n);
    learner.push(block.left.ptr, block.right.ptr, n);
  }
  const profile = learner.finish();
  for (const used of [stream, learner, block, store]) used.release();
  if (!profile)
    throw new Error("The range holds no noise, or too little of it. Select at least a tenth of a second.");
  return profileToText(profile);
}
