// Stretches of what clips sound like, for looking at where they meet.
import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import { ClipStream } from "../render/clipStream";
import { clipNeeded } from "../render/partStream";
import { insideOf, partOf } from "../render/soundPart";
import type { Source } from "../render/source";
import type { ResolvedClip } from "../session/lookup";
import { dbToGain } from "../units/decibels";

export interface Stereo {
  readonly left: Float32Array;
  readonly right: Float32Array;
}

function read(stream: ClipStream, out: Stereo, at: number, frames: number): void {
  const block = new StereoBlock(BLOCK);
  try {
    for (let done = 0; done < frames; done += BLOCK) {
      const n = Math.min(BLOCK, frames - done);
      stream.read(block.left.ptr, block.right.ptr, n);
      out.left.set(block.left.f32.subarray(0, n), at + done);
      out.right.set(block.right.f32.subarray(0, n), at + done);
    }
  } finally {
    stream.release();
    block.release();
  }
}

function empty(frames: number): Stereo {
  return { left: new Float32Array(frames), right: new Float32Array(frames) };
}

/** A clip as it is heard, with gain and fades, over [from, to) of the timeline; silence where it does not lie. */
export function heardSound(
  clip: ResolvedClip,
  source: Source,
  sampleRate: number,
  from: number,
  to: number
): Stereo {
  const out = empty(to - from);
  const begin = Math.max(from, clip.start);
  const end = Math.min(to, clip.start + clip.length);
  if (end > begin)
    read(new ClipStream(clip, source, sampleRate, begin - clip.start), out, begin - from, end - begin);
  return out;
}

/** A clip's sound with its gain over [from, to) of the timeline, without fades, and beyond its ends as its recording goes on. */
export function wholeSound(
  clip: ResolvedClip,
  source: Source,
  sampleRate: number,
  from: number,
  to: number
): Stereo {
  const out = empty(to - from);
  const reach = {
    before: Math.max(0, clip.start - from),
    after: Math.max(0, to - clip.start - clip.length)
  };
  const position = from - clip.start;
  read(new ClipStream(clip, source, sampleRate, position, { shaped: false, ...reach }), out, 0, to - from);
  const gain = dbToGain(clip.gainDb);
  for (const channel of [out.left, out.right]) for (let i = 0; i < channel.length; i++) channel[i] *= gain;
  return out;
}

/** Frames of the recording that these take. */
export function soundNeeded(clip: ResolvedClip, sampleRate: number, from: number, to: number): FrameRange {
  const range = clipNeeded(clip, sampleRate, from - clip.start, to - clip.start);
  // Beyond the clip's ends the recording is read as well.
  const part = partOf(clip);
  const offset = part.offset + insideOf(part).from - clip.start;
  return {
    recordingId: range.recordingId,
    from: Math.min(range.from, offset + from),
    to: Math.max(range.to, offset + to)
  };
}
