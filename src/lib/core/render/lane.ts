// How a track comes into the mix: its clips directly while it has no chain, else through a bus.
import { BLOCK } from "../audio/block";
import type { FrameRange } from "../audio/soundStream";
import { Bus } from "./bus";
import { runIn } from "./chainStream";
import type { BusPlan, Changed } from "./graph";
import type { SoundPart } from "./soundPart";
import { TrackFeed, type FeedWorld } from "./trackFeed";
import { sameLines } from "./trackLines";

/**
 * A track's bus. It sleeps while nothing comes in and its chain is silent, so that it costs nothing then.
 *
 *   clips        ▐███████▌           ▐███▌
 *   awake      ┌─────────────────┐ ┌──────────────┐
 *             w  w: latency and    z  z: the chain has forgotten the last clip
 *                a block before
 */
class TrackBus {
  #bus: Bus | undefined;
  #feed: TrackFeed | undefined;
  /** Where its input began when it woke. */
  #begin = 0;
  /** No clip begins before this that has not been heard. */
  #quietUntil = -Infinity;
  #fadesIn: boolean;
  #leaving = false;
  #plan: BusPlan;

  constructor(
    private readonly world: FeedWorld,
    plan: BusPlan,
    private position: number,
    fadesIn: boolean
  ) {
    this.#plan = plan;
    this.#fadesIn = fadesIn;
    // It may have heard clips before this.
    this.#wake(position - runIn(plan.timing, world.plan.sampleRate), position + 1);
  }

  /** Distance at which a clip ahead wakes it. */
  get #ahead(): number {
    return this.#plan.timing.latency + BLOCK;
  }

  /** Wakes if a clip sounds that a bus must hear which puts out frames up to `to`. `earliest`: where its input may begin. */
  #wake(earliest: number, to: number): void {
    const { world } = this;
    if (to + this.#ahead <= this.#quietUntil) return;
    const look = to + this.#ahead + world.plan.sampleRate;
    const first = world.plan.firstStart(this.#plan.id, earliest, look);
    if (first === undefined || first - this.#ahead >= to) {
      this.#quietUntil = first ?? look;
      return;
    }
    const begin = Math.max(earliest, first - this.#ahead);
    const at = Math.max(begin, this.position);
    this.#begin = begin;
    this.#feed = new TrackFeed(world, this.#plan.id, begin, 1, 1);
    const { source, change, plan } = world;
    const whole = begin > earliest;
    const { gentle } = world;
    this.#bus = new Bus(this.#feed, source, plan.sampleRate, change, this.#plan, begin, whole, at, gentle);
    if (this.#fadesIn && begin < this.position) this.#bus.fade("in", this.#plan);
  }

  add(l: number, r: number, n: number): void {
    const end = this.position + n;
    if (!this.#bus && !this.#leaving) this.#wake(this.position, end);
    this.#fadesIn = false;
    const bus = this.#bus;
    if (bus) {
      const begin = Math.max(0, bus.position - this.position);
      const stop = Math.min(n, this.#sleepsAt(end) - this.position);
      if (stop > begin) bus.add(l + begin * 4, r + begin * 4, stop - begin);
      if (stop < n || (this.#leaving && bus.silent)) this.#sleep();
    }
    this.position = end;
  }

  /** Where the chain has forgotten what came in and nothing new comes; Infinity when that is not before `to`. */
  #sleepsAt(to: number): number {
    const over = Math.max(this.#begin, this.#feed?.over ?? -Infinity);
    const { plan } = this.world;
    const { settle, tail, latency } = this.#plan.timing;
    const z = over + Math.max(settle, tail) + latency;
    if (z >= to) return Infinity;
    const next = plan.firstStart(this.#plan.id, over, z + this.#ahead);
    return next === undefined ? Math.max(z, this.position) : Infinity;
  }

  #sleep(): void {
    this.#bus?.release();
    this.#bus = undefined;
    this.#feed = undefined;
    this.#quietUntil = -Infinity;
  }

  get gone(): boolean {
    return this.#leaving && !this.#bus;
  }

  advance(frames: number, ahead: number): boolean {
    if (this.#leaving || !this.#feed || !this.#bus) return true;
    return this.#feed.advance(frames, ahead) && this.#bus.advance(frames);
  }

  get settled(): boolean {
    return (this.#feed?.settled ?? true) && (this.#bus?.settled ?? true);
  }

  /** Whether a change may be heard in it. */
  affectedBy(changed: Changed): boolean {
    if (changed.all || changed.tracks.has(this.#plan.id)) return true;
    // Asleep it has looked nothing up that could be outdated but when the next clip begins.
    return this.#feed?.affectedBy(changed) ?? false;
  }

  /** Whether it can go over to a changed plan. */
  takes(plan: BusPlan): boolean {
    return this.#bus?.takes(plan) ?? true;
  }

  update(plan: BusPlan): void {
    this.#plan = plan;
    this.#quietUntil = -Infinity;
    this.#feed?.update(1, 1);
    this.#bus?.update(plan);
    if (this.#bus) return;
    // A clip may lie at the playhead, or before it, that was not there.
    this.#fadesIn = true;
    this.#wake(this.position - runIn(plan.timing, this.world.plan.sampleRate), this.position + 1);
  }

  leave(): void {
    this.#leaving = true;
    this.#bus?.fade("out", this.#plan);
  }

  /** The clips that it would hear if it were awake. */
  #asleep(): TrackFeed {
    return new TrackFeed(this.world, this.#plan.id, this.position, 1, 1);
  }

  needed(to: number): FrameRange[] {
    if (this.#bus) return this.#bus.needed(Math.max(0, to - this.#bus.position));
    return this.#leaving ? [] : this.#asleep().needed(to + 2 * this.#ahead);
  }

  parts(to: number): SoundPart[] {
    if (this.#bus) return this.#bus.parts(Math.max(0, to - this.#bus.position));
    return this.#leaving ? [] : this.#asleep().parts(to + 2 * this.#ahead);
  }

  release(): void {
    this.#sleep();
  }
}

/** One track in the mix. */
export class Lane {
  #now: TrackFeed | TrackBus | undefined;
  #leaving: (TrackFeed | TrackBus)[] = [];
  /** Id of the track. */
  readonly track: string;

  constructor(
    private readonly world: FeedWorld,
    plan: BusPlan,
    private position: number,
    enters: boolean
  ) {
    this.track = plan.id;
    this.#now = this.#made(plan, enters);
  }

  #made(plan: BusPlan, enters: boolean): TrackFeed | TrackBus {
    if (plan.steps.length > 0) return new TrackBus(this.world, plan, this.position, enters);
    const feed = new TrackFeed(this.world, plan.id, this.position, plan.left, plan.right, plan.lines);
    if (enters) feed.enter();
    return feed;
  }

  /** Adds the next n ≤ BLOCK frames to two f32 blocks. */
  add(l: number, r: number, n: number): void {
    this.#now?.add(l, r, n);
    for (const one of this.#leaving) one.add(l, r, n);
    this.position += n;
    if (this.#leaving.length > 0) this.#clear();
  }

  /** Does some of what is to be heard later (`TrackFeed`). Returns whether nothing is left to do. */
  advance(frames: number, ahead: number): boolean {
    return this.#now?.advance(frames, ahead) ?? true;
  }

  /** Whether nothing still waits to take another's place. */
  get settled(): boolean {
    return this.#now?.settled ?? true;
  }

  #clear(): void {
    for (const one of this.#leaving) if (one.gone) one.release();
    this.#leaving = this.#leaving.filter((one) => !one.gone);
  }

  /** Whether a change may be heard in it. */
  affectedBy(changed: Changed): boolean {
    return this.#now?.affectedBy(changed) ?? changed.all;
  }

  /** Goes over to what the plan says now. plan undefined: the track is no longer heard. */
  update(plan: BusPlan | undefined): void {
    const now = this.#now;
    if (plan && now instanceof TrackBus && plan.steps.length > 0 && now.takes(plan)) now.update(plan);
    else if (plan && now instanceof TrackFeed && plan.steps.length === 0 && sameLines(plan.lines, now.lines))
      now.update(plan.left, plan.right);
    else {
      now?.leave();
      if (now) this.#leaving.push(now);
      this.#now = plan && this.#made(plan, true);
      this.#clear();
    }
  }

  /** Whether nothing is left of it. */
  get gone(): boolean {
    return !this.#now && this.#leaving.length === 0;
  }

  needed(to: number): FrameRange[] {
    return [...(this.#now ? [this.#now] : []), ...this.#leaving].flatMap((one) => one.needed(to));
  }

  parts(to: number): SoundPart[] {
    return this.#now?.parts(to) ?? [];
  }

  release(): void {
    this.#now?.release();
    for (const one of this.#leaving) one.release();
    this.#leaving = [];
  }
}
