import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import { Bus } from "./bus";
import type { BusInput } from "./busInput";
import { runIn } from "./chainStream";
import type { Changed, Plan } from "./graph";
import { Lane } from "./lane";
import type { SoundPart } from "./soundPart";
import type { Source } from "./source";
import type { FeedWorld } from "./trackFeed";
import type { TrackPeaks } from "./trackPeaks";

// A change while sound runs goes over in this time: short enough to be at once, long enough to be no click.
const CHANGE_SECONDS = 0.015;

/** The tracks, added up. */
export class TrackSum implements BusInput {
  readonly #world: FeedWorld;
  /** By track, from the top: sums of the same numbers in another order are other numbers. */
  #lanes: Map<string, Lane>;
  /** The same as a list: going over it leaves nothing behind on the heap. */
  #order: readonly Lane[];
  #position: number;

  constructor(
    plan: Plan,
    source: Source,
    position: number,
    private readonly peaks?: TrackPeaks,
    gentle = false
  ) {
    const change = Math.round(CHANGE_SECONDS * plan.sampleRate);
    this.#world = { plan, source, change, scratch: new StereoBlock(BLOCK), gentle };
    this.#position = position;
    this.#lanes = new Map(
      plan.tracks.map((track) => [track.id, new Lane(this.#world, track, position, false)])
    );
    this.#order = [...this.#lanes.values()];
  }

  add(l: number, r: number, n: number): void {
    const order = this.#order;
    for (let i = 0; i < order.length; i++) {
      this.peaks?.before(l, r, n);
      order[i].add(l, r, n);
      this.peaks?.after(order[i].track, l, r, n);
    }
    this.#position += n;
  }

  /** Goes over to what the plan says now. */
  update(changed: Changed): void {
    const { plan } = this.#world;
    if (!changed.all) {
      for (const [id, lane] of this.#lanes)
        if (lane.affectedBy(changed)) lane.update(plan.tracks.find((track) => track.id === id));
      return;
    }
    const old = this.#lanes;
    this.#lanes = new Map();
    for (const track of plan.tracks) {
      const known = old.get(track.id);
      known?.update(track);
      old.delete(track.id);
      this.#lanes.set(track.id, known ?? new Lane(this.#world, track, this.#position, true));
    }
    for (const [id, lane] of old) {
      lane.update(undefined);
      if (!lane.gone) this.#lanes.set(id, lane);
    }
    this.#order = [...this.#lanes.values()];
  }

  /** Does some of what is to be heard later (`TrackFeed`). Returns whether nothing is left to do. */
  advance(frames: number, ahead: number): boolean {
    let done = true;
    for (const lane of this.#order) done = lane.advance(frames, ahead) && done;
    return done;
  }

  /** Whether nothing still waits to take another's place. */
  get settled(): boolean {
    return this.#order.every((lane) => lane.settled);
  }

  needed(to: number): FrameRange[] {
    return [...this.#lanes.values()].flatMap((lane) => lane.needed(to));
  }

  parts(to: number): SoundPart[] {
    return [...this.#lanes.values()].flatMap((lane) => lane.parts(to));
  }

  release(): void {
    for (const lane of this.#lanes.values()) lane.release();
    this.#lanes.clear();
    this.#order = [];
    this.#world.scratch.release();
  }
}

/** The sound of a plan from a position on: the one mix that playback, export and measurement read. */
export class MixStream {
  readonly #change: number;
  #bus: Bus;
  #tracks: TrackSum;
  /** Those that another has taken the place of, until they are no longer heard. */
  #leaving: Bus[] = [];

  constructor(
    readonly plan: Plan,
    private readonly source: Source,
    position = 0,
    /** Where peaks of tracks are measured, if they are. */
    private readonly peaks?: TrackPeaks,
    /** Whether what plays plays on until `advance` has brought up what takes its place. */
    private readonly gentle = false
  ) {
    this.#change = Math.round(CHANGE_SECONDS * plan.sampleRate);
    [this.#bus, this.#tracks] = this.#open(position);
  }

  #open(position: number): [Bus, TrackSum] {
    const { mix, sampleRate } = this.plan;
    const first = Math.min(0, position);
    const begin = Math.max(first, position - runIn(mix.timing, sampleRate));
    const tracks = new TrackSum(this.plan, this.source, begin, this.peaks, this.gentle);
    const whole = begin === first;
    const { source, gentle } = this;
    return [new Bus(tracks, source, sampleRate, this.#change, mix, begin, whole, position, gentle), tracks];
  }

  /** Timeline position of the next frame. */
  get position(): number {
    return this.#bus.position;
  }

  /** Goes over to what the plan says now: what changed is crossfaded, what did not runs on untouched. */
  update(): void {
    const { mix } = this.plan;
    const changed = this.plan.takeChanged();
    if (this.#bus.takes(mix)) {
      this.#tracks.update(changed);
      this.#bus.update(mix);
      return;
    }
    this.#bus.fade("out", mix);
    this.#leaving.push(this.#bus);
    [this.#bus, this.#tracks] = this.#open(this.position);
    this.#bus.fade("in", mix);
  }

  /**
   * Does some of what is to be heard later: of a mix that is not read yet its run-in as well.
   * @param frames about as many are made of each clip that needs it
   * @param ahead frames within which clips begin that are run in
   * @returns whether nothing is left to do
   */
  advance(frames: number, ahead: number): boolean {
    return this.#tracks.advance(frames, ahead) && this.#bus.advance(frames);
  }

  /** Whether all that was changed sounds. */
  get settled(): boolean {
    return this.#tracks.settled && this.#bus.settled;
  }

  /** Frames of recordings that reading n more frames may take. */
  needed(n: number): FrameRange[] {
    return [this.#bus, ...this.#leaving].flatMap((bus) => bus.needed(n));
  }

  /** What begins to be read when n more frames are: what it has to learn must be learnt by then. */
  parts(n: number): SoundPart[] {
    return this.#bus.parts(n);
  }

  /** Writes the next n ≤ BLOCK frames to two f32 blocks in the kernels' memory. */
  read(l: number, r: number, n: number): void {
    this.#bus.read(l, r, n);
    if (this.#leaving.length === 0) return;
    for (const bus of this.#leaving) {
      bus.add(l, r, n);
      if (bus.silent) bus.release();
    }
    this.#leaving = this.#leaving.filter((bus) => !bus.silent);
  }

  release(): void {
    this.#bus.release();
    for (const bus of this.#leaving) bus.release();
    this.#leaving = [];
  }
}
