import { BLOCK, type StereoBlock } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import type { ResolvedClip } from "../session/lookup";
import type { BusInput } from "./busInput";
import { PATIENCE_SECONDS } from "./catchUp";
import { Gains } from "./gains";
import type { Changed, Plan } from "./graph";
import { soundingEnd } from "./ringOut";
import { insideOf, partOf, type SoundPart } from "./soundPart";
import type { Source } from "./source";
import { clipNeeded } from "./partStream";
import { linesBlock, type TrackLines } from "./trackLines";
import { soundAlike, Voice } from "./voice";

// Clips are looked up for this much of the timeline at once.
const AHEAD_SECONDS = 4;
// What was changed is kept at work for so long, so that it is there at once when one goes back to it.
const SPARE_SECONDS = 20;

/** What all feeds of a mix have in common. */
export interface FeedWorld {
  readonly plan: Plan;
  readonly source: Source;
  /** Frames over which a change goes from the old to the new. */
  readonly change: number;
  /** Room for the sound of one clip. */
  readonly scratch: StereoBlock;
  /**
   * Whether what plays plays on until what takes its place has been run in, by `advance`, in the time that is left over: for the output that must
   * not wait. Else a change counts at once.
   */
  readonly gentle?: boolean | undefined;
}

/** The clips of one track, added up from a position on. A block costs the clips that sound in it. */
export class TrackFeed implements BusInput {
  /** By when they begin; those that are on their way out come last. */
  #voices: Voice[] = [];
  /** What sounded before the last change of a clip, not heard, by the clip's id; and until when it is kept. */
  readonly #spares = new Map<string, { readonly voice: Voice; readonly until: number }>();
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
    for (const voice of this.#voices) if (voice.at !== undefined && !voice.leaving) this.#await(voice);
    for (const voice of this.#voices) {
      // It is not here yet: the one before it sounds on.
      if (voice.at !== undefined) {
        if (voice.end <= from) ended = true;
        continue;
      }
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
    const { left, right } = this.world.scratch;
    voice.stream(begin).read(left.ptr, right.ptr, n);
    if (this.lines) linesBlock(this.lines, begin, left.ptr, right.ptr, n);
    voice.gains.add(l, r, left.ptr, right.ptr, n);
    this.#over = Math.max(this.#over, voice.end);
  }

  /** Lets one that has come up with what sounds take its place; one that is too slow for that is made to. */
  #await(voice: Voice): void {
    const { scratch, plan, change } = this.world;
    const late = this.#position > voice.since + PATIENCE_SECONDS * plan.sampleRate;
    while (late && !voice.bring(this.#position, BLOCK, scratch));
    if (voice.here !== this.#position) return;
    voice.at = voice.here = undefined;
    voice.gains.moveTo(this.left, this.right, change);
    if (voice.before) this.#send(voice.before);
    voice.before = undefined;
  }

  #drop(): void {
    const ids = new Set(this.#voices.filter((voice) => !voice.leaving).map((voice) => voice.clip.id));
    this.#voices = this.#voices.filter((voice) => {
      const over = voice.end <= this.#position;
      const keep = !over && !(voice.leaving && (voice.gains.silent || !voice.open));
      if (keep) return true;
      if (this.world.gentle && this.#sounds(voice) && voice.open && ids.has(voice.clip.id))
        this.#spare(voice);
      else voice.release();
      return false;
    });
  }

  #spare(voice: Voice): void {
    const { id } = voice.clip;
    this.#spares.get(id)?.voice.release();
    voice.at = this.#position;
    this.#spares.set(id, { voice, until: this.#position + SPARE_SECONDS * this.world.plan.sampleRate });
  }

  /**
   * Does some of what is to be heard later: runs in what takes another's place, and clips that begin within `ahead` frames.
   * @param frames about as many are made of each
   * @returns whether nothing is left to do
   */
  advance(frames: number, ahead: number): boolean {
    const { scratch } = this.world;
    const at = this.#position;
    this.#look(at + Math.max(1, ahead));
    let done = true;
    for (const voice of this.#voices) {
      if (voice.leaving || voice.start > at + ahead || voice.end <= at) continue;
      if (voice.at !== undefined) done = voice.bring(at, frames, scratch) && done;
      else if (voice.start <= at || insideOf(partOf(voice.clip)).from > 0)
        done = voice.stream(Math.max(at, voice.start)).warm(frames) && done;
    }
    if (!done) return false;
    for (const [id, { voice, until }] of this.#spares) {
      if (at < Math.min(until, voice.end)) done = voice.bring(at, frames, scratch) && done;
      else {
        voice.release();
        this.#spares.delete(id);
      }
    }
    return done;
  }

  /** Whether nothing still waits to take another's place. */
  get settled(): boolean {
    return this.#voices.every((voice) => voice.at === undefined || voice.leaving);
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
    for (const voice of this.#voices) {
      if (voice.leaving) continue;
      if (voice.at === undefined) old.set(voice.clip.id, voice);
      else this.#forget(voice);
    }
    const next: Voice[] = [];
    for (const clip of plan.voices(this.track, this.#position, this.#until)) {
      const kept = old.get(clip.id);
      if (kept && soundAlike(kept.clip, clip)) {
        old.delete(clip.id);
        kept.gains.moveTo(left, right, this.#sounds(kept) ? change : 0);
        next.push(kept);
      } else {
        const voice = this.#entering(clip, kept);
        if (voice.before) {
          old.delete(clip.id);
          next.push(voice.before);
        }
        next.push(voice);
      }
    }
    const taken = new Set(next);
    for (const voice of this.#voices) {
      if (taken.has(voice) || (!voice.leaving && old.get(voice.clip.id) !== voice)) continue;
      this.#send(voice);
      next.push(voice);
    }
    this.#voices = next;
    this.#drop();
  }

  /** Gives one up that has not come to sound. */
  #forget(voice: Voice): void {
    voice.release();
    voice.leaving = true;
    voice.gains.set(0, 0);
  }

  #voiceOf(clip: ResolvedClip): Voice {
    const { source, plan } = this.world;
    return new Voice(clip, new Gains(this.left, this.right), source, plan.sampleRate);
  }

  /** @param before what of the clip has sounded until now */
  #entering(clip: ResolvedClip, before: Voice | undefined): Voice {
    const spare = this.#spares.get(clip.id)?.voice;
    const known = spare && soundAlike(spare.clip, clip) ? spare : undefined;
    if (known) this.#spares.delete(clip.id);
    const voice = known ?? this.#voiceOf(clip);
    voice.leaving = false;
    if (!this.#sounds(voice)) return voice;
    this.#enter(voice);
    if (this.world.gentle && before && this.#sounds(before)) voice.before = before;
    return voice;
  }

  #send(voice: Voice): void {
    if (voice.leaving) return;
    voice.leaving = true;
    if (this.#sounds(voice)) voice.gains.moveTo(0, 0, this.world.change);
    else voice.gains.set(0, 0);
  }

  /** Lets everything that sounds come in from silence: for a feed that takes another's place. */
  enter(): void {
    this.#look(this.#position + 1);
    for (const voice of this.#voices) {
      if (this.#sounds(voice)) this.#enter(voice);
    }
  }

  /** Lets one come in that sounds: at once, or when it has been brought up to here. */
  #enter(voice: Voice): void {
    voice.gains.set(0, 0);
    voice.since = this.#position;
    if (this.world.gentle) voice.at ??= this.#position;
    else voice.gains.moveTo(this.left, this.right, this.world.change);
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
      out.push(...voice.needed(begin, end));
    }
    for (const { voice } of this.#spares.values()) out.push(...voice.needed(from, Math.min(to, voice.end)));
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
    const waiting = this.#voices.filter((voice) => !voice.open && !voice.leaving && voice.start < to);
    const known = new Set(this.#voices.map((voice) => voice.clip.id));
    const later = this.world.plan
      .voices(this.track, Math.max(this.#position, this.#until), to)
      .filter((clip) => !known.has(clip.id));
    return [...waiting.map((voice) => voice.clip), ...later].map(partOf);
  }

  release(): void {
    for (const voice of this.#voices) voice.release();
    for (const { voice } of this.#spares.values()) voice.release();
    this.#voices = [];
    this.#spares.clear();
  }
}
