import type { StereoBlock } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import { alike } from "../session/equal";
import { chainStretch } from "../session/heard";
import type { ResolvedClip } from "../session/lookup";
import type { BusInput } from "./busInput";
import { ClipStream } from "./clipStream";
import { Gains } from "./gains";
import type { Changed, Plan } from "./graph";
import { clipNeeded } from "./partStream";
import { soundingEnd } from "./ringOut";
import { partOf, type SoundPart } from "./soundPart";
import type { Source } from "./source";
import { linesBlock, type TrackLines } from "./trackLines";

// Clips are looked up for this much of the timeline at once.
const AHEAD_SECONDS = 4;

/** Whether two states of a clip sound alike. */
function soundAlike(a: ResolvedClip, b: ResolvedClip): boolean {
  if (a === b) return true;
  return (
    a.start === b.start &&
    a.recordingId === b.recordingId &&
    a.recordingFrames === b.recordingFrames &&
    a.offset === b.offset &&
    a.length === b.length &&
    a.gainDb === b.gainDb &&
    alike(a.line ?? null, b.line ?? null) &&
    alike(a.fadeIn, b.fadeIn) &&
    alike(a.fadeOut, b.fadeOut) &&
    alike(a.steps, b.steps) &&
    alike(a.recordingSteps, b.recordingSteps) &&
    alike(a.render, b.render) &&
    alike(a.ringOut ?? null, b.ringOut ?? null) &&
    alike(chainStretch(a), chainStretch(b))
  );
}

/** One clip, with gains that move. */
class Voice {
  readonly start: number;
  readonly end: number;
  stream: ClipStream | undefined;
  leaving = false;

  constructor(
    readonly clip: ResolvedClip,
    readonly gains: Gains,
    sampleRate: number
  ) {
    this.start = clip.start;
    this.end = soundingEnd(clip, sampleRate);
  }

  release(): void {
    this.stream?.release();
    this.stream = undefined;
  }
}

/** What all feeds of a mix have in common. */
export interface FeedWorld {
  readonly plan: Plan;
  readonly source: Source;
  /** Frames over which a change goes from the old to the new. */
  readonly change: number;
  /** Room for the sound of one clip. */
  readonly scratch: StereoBlock;
}

/** The clips of one track, added up from a position on. A block costs the clips that sound in it. */
export class TrackFeed implements BusInput {
  /** By when they begin; those that are on their way out come last. */
  #voices: Voice[] = [];
  /** Up to where clips have been looked up. */
  #until: number;
  #position: number;
  #leaving = false;
  #over = -Infinity;

  /** @param left, right gains of every clip; `lines` come before them */
  constructor(
    private readonly world: FeedWorld,
    private readonly track: string,
    position: number,
    private left: number,
    private right: number,
    readonly lines?: TrackLines | undefined
  ) {
    this.#position = position;
    this.#until = position;
  }

  /** Timeline position of the next frame. */
  get position(): number {
    return this.#position;
  }

  /** End of the last clip that has sounded; -∞ before any. */
  get over(): number {
    return this.#over;
  }

  /** Whether it has been told to go and is no longer heard. */
  get gone(): boolean {
    return this.#leaving && this.#voices.length === 0;
  }

  #sounds(voice: Voice): boolean {
    return voice.start <= this.#position && this.#position < voice.end;
  }

  /** Looks clips up that begin before `to`. */
  #look(to: number): void {
    if (to <= this.#until || this.#leaving) return;
    const { plan } = this.world;
    const next = Math.max(to, this.#until + AHEAD_SECONDS * plan.sampleRate);
    const known = new Set(this.#voices.map((v) => v.clip.id));
    for (const clip of plan.voices(this.track, Math.max(this.#until, this.#position), next))
      if (!known.has(clip.id)) this.#voices.push(this.#voiceOf(clip));
    this.#until = next;
  }

  /** Adds the next n ≤ BLOCK frames to two f32 blocks. */
  add(l: number, r: number, n: number): void {
    const from = this.#position;
    const to = from + n;
    this.#look(to);
    let ended = false;
    for (const voice of this.#voices) {
      if (voice.end <= from || voice.start >= to) {
        if (voice.end <= from) ended = true;
        continue;
      }
      const begin = Math.max(from, voice.start);
      this.#one(
        voice,
        l + (begin - from) * 4,
        r + (begin - from) * 4,
        begin,
        Math.min(to, voice.end) - begin
      );
      if (voice.end <= to || (voice.leaving && voice.gains.silent)) ended = true;
    }
    this.#position = to;
    if (ended) this.#drop();
  }

  #one(voice: Voice, l: number, r: number, begin: number, n: number): void {
    const { source, plan, scratch } = this.world;
    voice.stream ??= new ClipStream(voice.clip, source, plan.sampleRate, begin - voice.start);
    const { left, right } = scratch;
    voice.stream.read(left.ptr, right.ptr, n);
    if (this.lines) linesBlock(this.lines, begin, left.ptr, right.ptr, n);
    voice.gains.add(l, r, left.ptr, right.ptr, n);
    this.#over = Math.max(this.#over, voice.end);
  }

  #drop(): void {
    this.#voices = this.#voices.filter((voice) => {
      const keep = voice.end > this.#position && !(voice.leaving && (voice.gains.silent || !voice.stream));
      if (!keep) voice.release();
      return keep;
    });
  }

  /** Whether a change may be heard in what it reads now. */
  affectedBy({ all, tracks, chains, recordings }: Changed): boolean {
    if (all || tracks.has(this.track)) return true;
    if (chains.size === 0 && recordings.size === 0) return false;
    return this.#voices.some(
      ({ clip }) => (clip.chain !== null && chains.has(clip.chain)) || recordings.has(clip.recordingId)
    );
  }

  /**
   * Goes over to what the plan says now: clips whose sound changed are crossfaded from the old to the new, both as if they had run
   * all along; gains move. What did not change runs on untouched.
   */
  update(left: number, right: number): void {
    const { plan, change } = this.world;
    this.left = left;
    this.right = right;
    const old = new Map<string, Voice>();
    for (const voice of this.#voices) if (!voice.leaving) old.set(voice.clip.id, voice);
    const next: Voice[] = [];
    for (const clip of plan.voices(this.track, this.#position, this.#until)) {
      const kept = old.get(clip.id);
      if (kept && soundAlike(kept.clip, clip)) {
        old.delete(clip.id);
        kept.gains.moveTo(left, right, this.#sounds(kept) ? change : 0);
        next.push(kept);
      } else next.push(this.#entering(clip));
    }
    for (const voice of this.#voices) {
      if (!voice.leaving && old.get(voice.clip.id) !== voice) continue;
      this.#send(voice);
      next.push(voice);
    }
    this.#voices = next;
    this.#drop();
  }

  #voiceOf(clip: ResolvedClip): Voice {
    return new Voice(clip, new Gains(this.left, this.right), this.world.plan.sampleRate);
  }

  #entering(clip: ResolvedClip): Voice {
    const voice = this.#voiceOf(clip);
    if (this.#sounds(voice)) {
      voice.gains.set(0, 0);
      voice.gains.moveTo(this.left, this.right, this.world.change);
    }
    return voice;
  }

  #send(voice: Voice): void {
    if (voice.leaving) return;
    voice.leaving = true;
    voice.gains.moveTo(0, 0, this.world.change);
  }

  /** Lets everything that sounds come in from silence: for a feed that takes another's place. */
  enter(): void {
    this.#look(this.#position + 1);
    for (const voice of this.#voices) {
      if (!this.#sounds(voice)) continue;
      voice.gains.set(0, 0);
      voice.gains.moveTo(this.left, this.right, this.world.change);
    }
  }

  /** Lets everything that sounds go. */
  leave(): void {
    this.#leaving = true;
    for (const voice of this.#voices) this.#send(voice);
    this.#drop();
  }

  /** Frames of recordings that reading up to `to` may take. */
  needed(to: number): FrameRange[] {
    const { plan } = this.world;
    const from = this.#position;
    const out: FrameRange[] = [];
    const known = new Set<string>();
    for (const voice of this.#voices) {
      if (!voice.leaving) known.add(voice.clip.id);
      if (voice.end <= from || voice.start >= to) continue;
      const end = Math.min(to, voice.end);
      const begin = Math.max(from, voice.start);
      if (voice.stream) out.push(...voice.stream.needed(end - begin));
      else out.push(clipNeeded(voice.clip, plan.sampleRate, begin - voice.start, end - voice.start));
    }
    if (this.#leaving) return out;
    for (const clip of plan.voices(this.track, Math.max(from, this.#until), to)) {
      if (known.has(clip.id)) continue;
      const begin = Math.max(from, clip.start) - clip.start;
      const end = Math.min(to, soundingEnd(clip, plan.sampleRate)) - clip.start;
      out.push(clipNeeded(clip, plan.sampleRate, begin, end));
    }
    return out;
  }

  /** What begins to be read before `to`: whatever it has to learn must be learnt by then. What is being read already has no more to. */
  parts(to: number): SoundPart[] {
    if (this.#leaving) return [];
    const waiting = this.#voices.filter((voice) => !voice.stream && !voice.leaving && voice.start < to);
    const known = new Set(this.#voices.map((voice) => voice.clip.id));
    const later = this.world.plan
      .voices(this.track, Math.max(this.#position, this.#until), to)
      .filter((clip) => !known.has(clip.id));
    return [...waiting.map((voice) => voice.clip), ...later].map(partOf);
  }

  release(): void {
    for (const voice of this.#voices) voice.release();
    this.#voices = [];
  }
}
