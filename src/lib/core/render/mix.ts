import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import type { Document } from "../session/document";
import { clipsByTrack, resolveClip, tracksInOrder, type ResolvedClip } from "../session/lookup";
import type { Track } from "../session/schema";
import { dbToGain } from "../units/decibels";
import { ClipStream, framesNeeded, type FrameRange } from "./clipStream";
import type { Source } from "./source";

// A change while sound runs goes over in this time: short enough to be at once, long enough to be no click.
const CHANGE_SECONDS = 0.02;

/** Gains of a track to left and right: its gain, and a balance that leaves the near side at full level. */
export function trackGains(track: Pick<Track, "gainDb" | "pan">): [left: number, right: number] {
  const g = dbToGain(track.gainDb);
  const far = kernels.cos((Math.abs(track.pan) * Math.PI) / 2);
  return [track.pan > 0 ? g * far : g, track.pan < 0 ? g * far : g];
}

/**
 * The audible clips with their tracks' gains: mute and solo applied. Always in the same order, from the top track down and by
 * their start: sums of the same numbers in another order are other numbers.
 */
export function audible(doc: Document): { clip: ResolvedClip; left: number; right: number }[] {
  const tracks = tracksInOrder(doc);
  const lanes = clipsByTrack(doc);
  const solo = tracks.some((t) => t.solo);
  const out: { clip: ResolvedClip; left: number; right: number }[] = [];
  for (const track of tracks) {
    if (track.muted || (solo && !track.solo)) continue;
    const [left, right] = trackGains(track);
    for (const clip of lanes.get(track.id) ?? [])
      if (!clip.muted) out.push({ clip: resolveClip(doc, clip), left, right });
  }
  return out;
}

const soundKeys = new WeakMap<ResolvedClip, string>();

/** All that a clip's sound depends on, as text. */
function soundKey(clip: ResolvedClip): string {
  let key = soundKeys.get(clip);
  if (key === undefined) {
    const { start, recordingId, offset, length, gainDb, fadeIn, fadeOut, steps, render } = clip;
    key = JSON.stringify([start, recordingId, offset, length, gainDb, fadeIn, fadeOut, steps, render]);
    soundKeys.set(clip, key);
  }
  return key;
}

/** One clip in the mix, with gains that move to their targets. */
class Voice {
  key: string;
  start: number;
  end: number;
  stream: ClipStream | undefined;
  left = 0;
  right = 0;
  toLeft: number;
  toRight: number;
  ramp = 0;
  leaving = false;

  constructor(
    readonly clip: ResolvedClip,
    left: number,
    right: number
  ) {
    this.key = soundKey(clip);
    this.start = clip.start;
    this.end = clip.start + clip.length;
    this.left = this.toLeft = left;
    this.right = this.toRight = right;
  }

  moveTo(left: number, right: number, frames: number): void {
    if (this.toLeft === left && this.toRight === right) return;
    this.toLeft = left;
    this.toRight = right;
    this.ramp = frames;
  }
}

/** The sound of a document from a position on: the one mix that playback, export and measurement read. */
export class MixStream {
  readonly #change: number;
  readonly #scratch = new StereoBlock(BLOCK);
  #voices: Voice[] = [];
  #position: number;

  constructor(
    doc: Document,
    private readonly source: Source,
    position = 0
  ) {
    this.#change = Math.round(CHANGE_SECONDS * doc.sampleRate);
    this.sampleRate = doc.sampleRate;
    this.#position = position;
    this.#voices = audible(doc).map(({ clip, left, right }) => new Voice(clip, left, right));
  }

  readonly sampleRate: number;

  /** Timeline position of the next frame. */
  get position(): number {
    return this.#position;
  }

  /**
   * Goes over to a changed document: clips whose sound changed are crossfaded from the old to the new, both as if they had run
   * all along; gains move. What did not change runs on untouched.
   */
  update(doc: Document): void {
    const old = new Map<string, Voice>();
    for (const voice of this.#voices) if (!voice.leaving) old.set(`${voice.clip.id} ${voice.key}`, voice);
    const next: Voice[] = [];
    for (const { clip, left, right } of audible(doc)) {
      const same = `${clip.id} ${soundKey(clip)}`;
      const kept = old.get(same);
      if (kept) {
        old.delete(same);
        if (this.#sounds(kept)) kept.moveTo(left, right, this.#change);
        else {
          kept.moveTo(left, right, 0);
          kept.left = left;
          kept.right = right;
        }
        next.push(kept);
      } else {
        const voice = new Voice(clip, left, right);
        if (this.#sounds(voice)) {
          voice.left = voice.right = 0;
          voice.ramp = this.#change;
        }
        next.push(voice);
      }
    }
    for (const voice of this.#voices) {
      const gone = voice.leaving || old.get(`${voice.clip.id} ${voice.key}`) === voice;
      if (!gone) continue;
      if (!voice.leaving) {
        voice.leaving = true;
        voice.moveTo(0, 0, this.#change);
      }
      if (voice.stream && voice.ramp > 0) next.push(voice);
      else voice.stream?.release();
    }
    this.#voices = next;
  }

  /** Frames of recordings that reading n more frames may take. */
  needed(n: number): FrameRange[] {
    const [from, to] = [this.#position, this.#position + n];
    const out: FrameRange[] = [];
    for (const voice of this.#voices) {
      if (voice.end <= from || voice.start >= to) continue;
      const begin = Math.max(from, voice.start) - voice.start;
      const end = Math.min(to, voice.end) - voice.start;
      const { stream } = voice;
      out.push(stream ? stream.needed(end - begin) : framesNeeded(voice.clip, this.sampleRate, begin, end));
    }
    return out;
  }

  #sounds(voice: Voice): boolean {
    return voice.start <= this.#position && this.#position < voice.end;
  }

  /** Writes the next n ≤ BLOCK frames to two f32 blocks in the kernels' memory. */
  read(l: number, r: number, n: number): void {
    kernels.clear(l, n);
    kernels.clear(r, n);
    const from = this.#position;
    const to = from + n;
    let ended = false;
    for (const voice of this.#voices) {
      if (voice.end <= from || voice.start >= to) {
        if (voice.end <= from && voice.stream) ended = true;
        continue;
      }
      const begin = Math.max(from, voice.start);
      const frames = Math.min(to, voice.end) - begin;
      voice.stream ??= new ClipStream(voice.clip, this.source, this.sampleRate, begin - voice.start);
      voice.stream.read(this.#scratch.left.ptr, this.#scratch.right.ptr, frames);
      this.#add(voice, l + (begin - from) * 4, r + (begin - from) * 4, frames);
      if (voice.leaving && voice.ramp === 0) ended = true;
    }
    this.#position = to;
    if (ended) this.#drop();
  }

  #add(voice: Voice, l: number, r: number, n: number): void {
    const a = this.#scratch.left.ptr;
    const b = this.#scratch.right.ptr;
    const m = Math.min(n, voice.ramp);
    if (m > 0) {
      const stepL = (voice.toLeft - voice.left) / voice.ramp;
      const stepR = (voice.toRight - voice.right) / voice.ramp;
      kernels.addRamped(l, a, m, voice.left, stepL);
      kernels.addRamped(r, b, m, voice.right, stepR);
      voice.ramp -= m;
      voice.left = voice.ramp === 0 ? voice.toLeft : voice.left + stepL * m;
      voice.right = voice.ramp === 0 ? voice.toRight : voice.right + stepR * m;
    }
    if (m < n && !voice.leaving) {
      kernels.addScaled(l + m * 4, a + m * 4, n - m, voice.left);
      kernels.addScaled(r + m * 4, b + m * 4, n - m, voice.right);
    }
  }

  #drop(): void {
    for (const voice of this.#voices) {
      const over = voice.end <= this.#position || (voice.leaving && voice.ramp === 0);
      if (over && voice.stream) {
        voice.stream.release();
        voice.stream = undefined;
      }
    }
    this.#voices = this.#voices.filter((v) => !(v.leaving && (v.ramp === 0 || !v.stream)));
  }

  release(): void {
    for (const voice of this.#voices) voice.stream?.release();
    this.#voices = [];
    this.#scratch.release();
  }
}
