import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import type { SoundStream } from "$lib/core/audio/soundStream";
import { NoiseLearner, profileToText } from "$lib/core/effects/noiseProfile";
import { NoiseStretch } from "$lib/core/effects/noiseStretch";
import { openBus } from "$lib/core/render/busAnalysis";
import { barePart } from "$lib/core/render/clipAnalysis";
import { Plan } from "$lib/core/render/graph";
import { openPart } from "$lib/core/render/partStream";
import { insideOf } from "$lib/core/render/soundPart";
import type { Document } from "$lib/core/session/document";
import { spanWithin } from "$lib/core/session/spans";
import { formatTime } from "$lib/core/units/time";
import { ChunkStore } from "$lib/playback/chunkStore";
import type { Subject } from "./selection.svelte";

/** Longest stretch that is learnt from, seconds. */
const MOST_SECONDS = 20;
/** Frames that are fetched at once. */
const SPAN = 64 * BLOCK;

interface Range {
  readonly from: number;
  readonly to: number;
}

/** The sound that comes to a step, from the beginning of a range of the timeline on. */
async function soundBefore(
  doc: Document,
  { owner, clip, steps }: Subject,
  stepId: string,
  { from, to }: Range,
  store: ChunkStore
): Promise<SoundStream> {
  const before = steps.slice(
    0,
    steps.findIndex((s) => s.id === stepId)
  );
  if (clip) {
    const part = { ...barePart(clip), steps: before };
    await store.prepare([part], () => true);
    return openPart(part, store, doc.sampleRate, insideOf(part).from + from - clip.start);
  }
  const plan = new Plan(doc);
  await store.prepare(plan.parts(from, to), () => true, undefined, plan.asked());
  const bus = owner.table === "project" ? plan.mix : plan.bus(owner.id);
  await store.ensure(plan.needed(from, from + SPAN));
  return openBus(
    plan,
    bus,
    before.filter((s) => s.on),
    store,
    from
  );
}

/** What was learnt, from where, and what may be wrong with it. */
export interface LearntNoise {
  readonly profile: string;
  readonly from: string;
  readonly doubt: string | undefined;
}

/**
 * A noise profile from a range of the timeline, as it comes to a step of what is on the bench: through the steps before it.
 * @throws when the range holds no noise, or its sound cannot be had
 */
export async function learnNoise(
  doc: Document,
  subject: Subject,
  stepId: string,
  range: Range
): Promise<LearntNoise> {
  const { sampleRate } = doc;
  const store = new ChunkStore(sampleRate);
  const learner = new NoiseLearner(sampleRate);
  const stretch = new NoiseStretch(sampleRate);
  const block = new StereoBlock();
  let stream: SoundStream | undefined;
  try {
    const end = Math.min(range.to, range.from + MOST_SECONDS * sampleRate);
    const sound = (stream = await soundBefore(doc, subject, stepId, { from: range.from, to: end }, store));
    for (let at = range.from; at < end; at += BLOCK) {
      if ((at - range.from) % SPAN === 0) await store.ensure(sound.needed(Math.min(SPAN, end - at)));
      const n = Math.min(BLOCK, end - at);
      sound.read(block.left.ptr, block.right.ptr, n);
      learner.push(block.left.ptr, block.right.ptr, n);
      stretch.push(block.left.ptr, block.right.ptr, n);
    }
    const profile = learner.finish();
    if (!profile)
      throw new Error("The range holds no noise, or too little of it. Select at least a tenth of a second.");
    const at = (frame: number) => formatTime(frame / sampleRate, 1);
    const from = `${subject.name}, ${at(range.from)} to ${at(end)}`;
    return { profile: profileToText(profile), from, doubt: stretch.doubt() };
  } finally {
    for (const used of [stream, learner, stretch, block, store]) used?.release();
  }
}

/** What of the selected range the bench's sound has; undefined when none of it. */
export function learnable(doc: Document, { owner, clip }: Subject, range: Range | null): Range | undefined {
  if (!range || !spanWithin(doc, owner, range)) return undefined;
  if (!clip) return range;
  return { from: Math.max(range.from, clip.start), to: Math.min(range.to, clip.start + clip.length) };
}
