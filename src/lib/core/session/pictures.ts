// Which picture belongs to a place on the timeline, and how a player is kept in step with it.
import type { Document } from "./document";
import { byPlace } from "./lookup";
import type { About, Clip, Recording } from "./schema";

/** A clip of a video's sound. */
export interface VideoClip {
  readonly clip: Clip;
  readonly recording: Recording;
}

/** All clips whose recording came from a video, by where they begin. */
export function videoClips(doc: Document): VideoClip[] {
  const videos = new Map<string, Recording>();
  for (const recording of doc.values("recordings"))
    if (recording.about?.video) videos.set(recording.id, recording);
  if (videos.size === 0) return [];
  const found: VideoClip[] = [];
  for (const clip of doc.values("clips")) {
    const recording = videos.get(clip.content.recordingId);
    if (recording) found.push({ clip, recording });
  }
  return found.sort((a, b) => byPlace(a.clip, b.clip));
}

/** A moment of a video. */
export interface Moment {
  readonly recording: Recording;
  /** Seconds from the beginning of the file as it is played. */
  readonly seconds: number;
  /** Seconds from its first picture; below 0 before it. */
  readonly sincePicture: number;
}

/**
 * The moment of a video that belongs to a place on the timeline: that of the clip under it which began last, muted ones left out; undefined where none is.
 * A file is played from where its first stream begins, so sound that begins after the picture lies its offset later.
 */
export function momentAt(
  clips: readonly VideoClip[],
  position: number,
  sampleRate: number
): Moment | undefined {
  const under = clips.filter(
    ({ clip }) => !clip.muted && clip.start <= position && position < clip.start + clip.length
  );
  const last = under.at(-1);
  if (!last) return undefined;
  const { clip, recording } = last;
  const offset = recording.about?.video?.offset ?? 0;
  const sinceSound = (position - clip.start + clip.offset) / sampleRate;
  return { recording, seconds: sinceSound + Math.max(0, offset), sincePicture: sinceSound + offset };
}

/** The middle of the picture that is shown at a moment: a player that is told its very beginning may show the one before. */
export function middleOfPicture(seconds: number, frameRate: number): number {
  return frameRate > 0 ? (Math.floor(seconds * frameRate + 1e-6) + 0.5) / frameRate : seconds;
}

/** Below this nobody sees a difference, in seconds. */
const IN_STEP = 0.008;
/** Above this the picture jumps. */
const OUT_OF_STEP = 0.12;
const CATCH_UP_SECONDS = 0.4;

/** What a playing picture must do: a speed that brings it into step, or a jump. @param error seconds by which it is ahead of the sound */
export function inStep(error: number): { readonly speed: number; readonly jump: boolean } {
  if (Math.abs(error) < IN_STEP) return { speed: 1, jump: false };
  if (Math.abs(error) > OUT_OF_STEP) return { speed: 1, jump: true };
  return { speed: Math.max(0.9, Math.min(1.1, 1 - error / CATCH_UP_SECONDS)), jump: false };
}

/** A video in words: its size, its pictures, and when its sound begins against them. */
export function videoText({ width, height, frameRate, offset }: NonNullable<About["video"]>): string {
  const ms = Math.round(offset * 1000);
  const begins =
    ms === 0 ? "with the picture" : `${Math.abs(ms)} ms ${ms < 0 ? "before" : "after"} the picture`;
  return `${width} × ${height}, ${frameRate.toFixed(2)} pictures a second; the sound begins ${begins}`;
}
