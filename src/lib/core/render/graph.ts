// The plan by which a document sounds. Playback, export and measuring follow it.
//
//   voices (clips, found by time)          buses                                     the mix
//
//   clip ─ its chain ─ gain, line ─ fades ─┐
//   clip ─ …                               ├─► track: sum ─ chain ─ lines, gain, pan ─┐
//   clip ─ …                         ┘                                   ├─► mix: sum ─ chain ─ gain ─► output
//                                         track: … ──────────────────────┤
//                                         (sends ─► returns ─────────────┘  have their places, but there are none yet)
//
// Nothing is computed here, and nothing is copied: the plan answers what sounds when. A change of the document changes what it
// touches. Latency is compensated by reading ahead: the input of each bus is read earlier by the latency of its chain.
import { BLOCK } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import { chainTiming, soundEnd, type ChainTiming } from "../effects/chain";
import { recordingsOf } from "../effects/registry";
import { kernels } from "../kernels/instance";
import type { Change } from "../session/changes";
import type { Document } from "../session/document";
import { resolveClip, tracksInOrder, type ResolvedClip } from "../session/lookup";
import { MIX, stepsOfChain, stepsOfOwner } from "../session/owners";
import type { Clip, Step, Track } from "../session/schema";
import { TimelineIndex } from "../session/timelineIndex";
import { dbToGain } from "../units/decibels";
import { runIn } from "./chainStream";
import { clipNeeded } from "./partStream";
import { soundingEnd } from "./ringOut";
import { askedBy, partOf, type SoundPart } from "./soundPart";
import { StandIns, type Treatment } from "./standIns";
import { linesOf, type TrackLines } from "./trackLines";

/** A part of a bus's sound that goes elsewhere as well. There are none yet. */
export interface SendPlan {
  /** Id of the bus that it goes to. */
  readonly to: string;
  readonly gain: number;
}

/** A place where sounds are added up and treated together. */
export interface BusPlan {
  /** Id of the track; "project" for the mix. */
  readonly id: string;
  /** The steps of its chain that are on. */
  readonly steps: readonly Step[];
  readonly timing: ChainTiming;
  /** Gains behind the chain. */
  readonly left: number;
  readonly right: number;
  /** Gain and pan over time, before those. */
  readonly lines?: TrackLines | undefined;
  /** Id of the bus that it goes to; null: the output. */
  readonly to: string | null;
  readonly sends: readonly SendPlan[];
}

/** Gains of a track to left and right: its gain, and a balance that leaves the near side at full level. */
export function trackGains(track: Pick<Track, "gainDb" | "pan">): [left: number, right: number] {
  const g = dbToGain(track.gainDb);
  const far = kernels.cos((Math.abs(track.pan) * Math.PI) / 2);
  return [track.pan > 0 ? g * far : g, track.pan < 0 ? g * far : g];
}

const NO_SENDS: readonly SendPlan[] = [];

function onSteps(steps: readonly Step[]): readonly Step[] {
  return steps.every((s) => s.on) ? steps : steps.filter((s) => s.on);
}

/** What of a plan has changed: everything, or whatever stands on these. */
export interface Changed {
  all: boolean;
  readonly tracks: Set<string>;
  readonly chains: Set<string>;
  readonly recordings: Set<string>;
}

function nothing(): Changed {
  return { all: false, tracks: new Set(), chains: new Set(), recordings: new Set() };
}

function audible(clip: Clip | null): Clip | null {
  return clip && !clip.muted ? clip : null;
}

/** A stretch of the timeline in frames, [from, to). */
interface Stretch {
  readonly from: number;
  readonly to: number;
}

export class Plan {
  #document: Document;
  readonly #index: TimelineIndex;
  /** The clips that ring out after their end, by their ids, for each track. */
  readonly #ringing = new Map<string, Map<string, Clip>>();
  #tracks: readonly BusPlan[] | undefined;
  #mix: BusPlan | undefined;
  #end: number | undefined;
  #changed = nothing();
  readonly #standIns = new StandIns();
  /** Recordings whose clips are silent. */
  readonly #leftOut = new Set<string>();

  constructor(document: Document) {
    this.#document = document;
    const clips = [...document.values("clips")].filter((clip) => !clip.muted);
    this.#index = new TimelineIndex(clips);
    for (const clip of clips) this.#noteRinging(null, clip);
  }

  get document(): Document {
    return this.#document;
  }

  get sampleRate(): number {
    return this.#document.sampleRate;
  }

  /** Goes over to a changed document. Costs what changed. */
  update(document: Document, changes: readonly Change[]): void {
    this.#document = document;
    this.#end = undefined;
    for (const change of changes) this.#note(change);
  }

  /** The treatment that a clip keeps sounding with, if it does. */
  held(clipId: string): Treatment | undefined {
    return this.#standIns.get(clipId);
  }

  /** A clip as it is in the document, with another treatment: the same object for the same two. */
  treated(clip: ResolvedClip, treatment: Treatment): ResolvedClip {
    return this.#standIns.with(clip, treatment);
  }

  /** Lets a clip sound with another treatment than its document says; undefined: as it says. */
  hold(clipId: string, treatment: Treatment | undefined): void {
    if (!this.#standIns.set(clipId, treatment)) return;
    this.#end = undefined;
    const clip = this.#document.get("clips", clipId);
    if (clip) this.#changed.tracks.add(clip.track);
  }

  /** Lets every clip be silent that sounds from a recording, or whose steps ask for it: its audio cannot be had. Returns whether they sounded. */
  leaveOut(recordingId: string): boolean {
    if (this.#leftOut.has(recordingId)) return false;
    this.#leftOut.add(recordingId);
    this.#end = undefined;
    this.#changed.all = true;
    return true;
  }

  /** Lets all of them sound again. */
  takeBack(): void {
    if (this.#leftOut.size === 0) return;
    this.#leftOut.clear();
    this.#end = undefined;
    this.#changed.all = true;
  }

  #heard(clip: ResolvedClip): boolean {
    if (this.#leftOut.size === 0) return true;
    const part = partOf(clip);
    const { recordingId, under } = part;
    return ![recordingId, under?.recordingId ?? recordingId, ...askedBy(part)].some((id) =>
      this.#leftOut.has(id)
    );
  }

  /** A clip as it sounds. */
  #sounding(clip: Clip): ResolvedClip {
    return this.#standIns.as(resolveClip(this.#document, clip));
  }

  #note({ table, id, before, after }: Change): void {
    const changed = this.#changed;
    switch (table) {
      case "clips":
        for (const clip of [before, after] as (Clip | null)[]) if (clip) changed.tracks.add(clip.track);
        this.#index.change(audible(before as Clip | null), audible(after as Clip | null));
        this.#noteRinging(before as Clip | null, audible(after as Clip | null));
        break;
      case "recordings":
        changed.recordings.add(id);
        break;
      case "chains":
        this.#noteChain(id);
        break;
      case "tracks":
      case "project":
        changed.all = true;
        this.#tracks = undefined;
        this.#mix = undefined;
    }
  }

  #noteRinging(before: Clip | null, after: Clip | null): void {
    if (before?.ringOut) this.#ringing.get(before.track)?.delete(before.id);
    if (!after?.ringOut) return;
    let clips = this.#ringing.get(after.track);
    if (!clips) this.#ringing.set(after.track, (clips = new Map()));
    clips.set(after.id, after);
  }

  /** The clips of a track that are over before `from` but ring on into it. */
  #ringsInto(track: string, from: number): ResolvedClip[] {
    const out: ResolvedClip[] = [];
    for (const clip of this.#ringing.get(track)?.values() ?? []) {
      if (clip.start + clip.length > from) continue;
      const resolved = this.#sounding(clip);
      if (soundingEnd(resolved, this.sampleRate) > from) out.push(resolved);
    }
    return out;
  }

  #noteChain(id: string): void {
    this.#changed.chains.add(id);
    const doc = this.#document;
    for (const recording of doc.values("recordings"))
      if (recording.chain === id) this.#changed.recordings.add(recording.id);
    for (const track of doc.values("tracks")) {
      if (track.chain !== id) continue;
      this.#changed.tracks.add(track.id);
      this.#tracks = undefined;
    }
    if (doc.project.mix.chain === id) this.#mix = undefined;
  }

  /** What has changed since this was last asked: what plays need look at nothing else. */
  takeChanged(): Changed {
    const changed = this.#changed;
    this.#changed = nothing();
    return changed;
  }

  /** The buses of the tracks that are heard, from the top: neither muted nor left out by another's solo. */
  get tracks(): readonly BusPlan[] {
    return (this.#tracks ??= this.#busesOfTracks());
  }

  #busesOfTracks(): BusPlan[] {
    const all = tracksInOrder(this.#document);
    const solo = all.some((t) => t.solo);
    return all.filter((track) => !track.muted && (!solo || track.solo)).map((track) => this.#busOf(track));
  }

  #busOf(track: Track): BusPlan {
    const steps = onSteps(stepsOfChain(this.#document, track.chain));
    // A line of its own takes the pan's place.
    const [left, right] = trackGains(track.panLine ? { ...track, pan: 0 } : track);
    const lines = linesOf(track);
    const timing = chainTiming(steps, this.sampleRate);
    return { id: track.id, steps, timing, left, right, lines, to: MIX.id, sends: NO_SENDS };
  }

  /** The bus of a track, heard or not. @throws when there is no such track */
  bus(id: string): BusPlan {
    const track = this.#document.get("tracks", id);
    if (!track) throw new Error(`There is no track ${id}.`);
    return this.#busOf(track);
  }

  get mix(): BusPlan {
    return (this.#mix ??= this.#busOfMix());
  }

  #busOfMix(): BusPlan {
    const steps = onSteps(stepsOfOwner(this.#document, MIX));
    const gain = dbToGain(this.#document.project.mix.gainDb);
    const timing = chainTiming(steps, this.sampleRate);
    return { id: MIX.id, steps, timing, left: gain, right: gain, to: null, sends: NO_SENDS };
  }

  /** The clips of a track that sound somewhere in [from, to), by when they begin; equal ones by id, so that everyone adds them up alike. */
  voices(track: string, from: number, to: number): ResolvedClip[] {
    const heard = (clip: ResolvedClip) => this.#heard(clip);
    const there = this.#index
      .overlapping(track, from, to)
      .map((clip) => this.#sounding(clip))
      .filter(heard);
    const ringing = this.#ringsInto(track, from).filter(heard);
    if (ringing.length === 0) return there;
    return [...ringing, ...there].sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1));
  }

  /** When the first clip of a track that sounds in [from, to) begins; undefined when none does. */
  firstStart(track: string, from: number, to: number): number | undefined {
    const starts = this.#ringsInto(track, from).map((clip) => clip.start);
    const first = this.#index.overlapping(track, from, to)[0]?.start;
    return first === undefined && starts.length === 0 ? undefined : Math.min(first ?? Infinity, ...starts);
  }

  /** Frame from which on nothing sounds any more: the end of the last clip, and what the chains of tracks and the mix leave ringing. */
  get end(): number {
    return (this.#end ??= this.#soundEnd());
  }

  #soundEnd(): number {
    let end = 0;
    for (const { id, steps } of this.tracks) {
      const rings = [...(this.#ringing.get(id)?.values() ?? [])].map((clip) =>
        soundingEnd(this.#sounding(clip), this.sampleRate)
      );
      const last = Math.max(this.#index.end(id), ...rings);
      if (last > 0) end = Math.max(end, soundEnd(steps, this.sampleRate, last));
    }
    return end > 0 ? soundEnd(this.mix.steps, this.sampleRate, end) : 0;
  }

  /** What of a track must be read for its bus to put out [from, to): with the run-in of the chains behind it, and ahead by their latency. */
  #reach(bus: BusPlan, from: number, to: number): Stretch {
    const before = runIn(this.mix.timing, this.sampleRate) + runIn(bus.timing, this.sampleRate);
    const ahead = this.mix.timing.latency + bus.timing.latency;
    return { from: from - before, to: to + ahead + 2 * BLOCK };
  }

  /** Every clip that may be read when the mix is started at `from` and read up to `to`, with the frames of it. */
  #read(
    from: number,
    to: number
  ): { readonly clip: ResolvedClip; readonly from: number; readonly to: number }[] {
    return this.tracks.flatMap((bus) => {
      const reach = this.#reach(bus, from, to);
      return this.voices(bus.id, reach.from, reach.to).map((clip) => ({
        clip,
        from: Math.max(0, reach.from - clip.start),
        to: Math.min(soundingEnd(clip, this.sampleRate), reach.to) - clip.start
      }));
    });
  }

  /** Frames of recordings that are read when the mix is started at `from` and read up to `to`. */
  needed(from: number, to: number): FrameRange[] {
    return this.#read(from, to).map((one) => clipNeeded(one.clip, this.sampleRate, one.from, one.to));
  }

  /** What sounds when the mix is started at `from` and read up to `to`: what has to be learnt is learnt of these. */
  parts(from: number, to: number): SoundPart[] {
    return this.#read(from, to).map(({ clip }) => partOf(clip));
  }

  /** Recordings that the chains of tracks and the mix ask for as a whole. */
  asked(): string[] {
    return [...this.tracks, this.mix].flatMap((bus) => bus.steps.flatMap(recordingsOf));
  }

  /** Ids of all recordings that are read when the mix is started at `from` and read up to `to`. */
  recordings(from: number, to: number): string[] {
    const read = this.parts(from, to).flatMap((part) => [part.recordingId, ...askedBy(part)]);
    return [...new Set([...read, ...this.asked()])];
  }
}

/** Frame of a document from which on nothing sounds any more, tails included. */
export function programmeOver(document: Document): number {
  return new Plan(document).end;
}
