import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import type { ChainPlace } from "../effects/chain";
import { kernels } from "../kernels/instance";
import { alike } from "../session/equal";
import type { BusInput } from "./busInput";
import { catchUp, PATIENCE_SECONDS } from "./catchUp";
import { ChainStream, mostRunIn, runIn } from "./chainStream";
import { Gains } from "./gains";
import type { BusPlan } from "./graph";
import { History } from "./history";
import type { SoundPart } from "./soundPart";
import type { Source } from "./source";
import { linesBlock, sameLines } from "./trackLines";

// What a bus has let in is past changing: it works in short blocks, so that a change of a clip is heard soon.
const BUS_BLOCK = 128;

/** Where the chain of a bus begins: its sound has no end, and there is nothing to learn. */
export function busPlace(source: Source, position: number): ChainPlace {
  return { frames: 0, position, learnt: [], sound: (id) => source.sound?.(id) };
}

/** Reads a bus's input from a place on. */
class InputReader implements SoundStream {
  constructor(
    private readonly bus: Bus,
    private at: number
  ) {}

  read(l: number, r: number, n: number): void {
    this.bus.input(this.at, n, l, r);
    this.at += n;
  }

  needed(n: number): readonly FrameRange[] {
    return this.bus.inputNeeded(this.at + n);
  }

  release(): void {
    // It holds nothing.
  }
}

interface Run {
  readonly stream: SoundStream;
  readonly gains: Gains;
  /** Position up to which it is made, while it still has to come up with what sounds; undefined: it sounds. */
  at: number | undefined;
  /** Position at which it began to wait. */
  readonly since: number;
}

/** Sums, treats, sets the level. A changed chain is run in over what the bus has heard, and crossfaded. */
export class Bus {
  readonly #history: History;
  readonly #gains: Gains;
  readonly #one = new StereoBlock(BLOCK);
  readonly #sum = new StereoBlock(BLOCK);
  #runs: Run[] = [];
  #steps: BusPlan["steps"];
  readonly #lines: BusPlan["lines"];
  #latency: number;
  #position: number;

  /**
   * @param begin position at which its input begins
   * @param whole whether nothing sounds before that
   * @param position of the first frame that is read; not before `begin`
   * @param change frames over which a change goes from the old to the new
   */
  constructor(
    private readonly flow: BusInput,
    private readonly source: Source,
    private readonly sampleRate: number,
    private readonly change: number,
    plan: BusPlan,
    private readonly begin: number,
    private readonly whole: boolean,
    position: number,
    /** Whether a changed chain waits until `advance` has run it in. */
    private readonly gentle = false
  ) {
    this.#steps = plan.steps;
    this.#lines = plan.lines;
    this.#latency = plan.timing.latency;
    this.#position = position;
    this.#history = new History(begin, this.#room(plan));
    this.#gains = new Gains(plan.left, plan.right);
    this.#runs.push({
      stream: this.#stream(plan, begin),
      gains: new Gains(1, 1),
      at: undefined,
      since: begin
    });
  }

  /** Position of the next frame that is read. */
  get position(): number {
    return this.#position;
  }

  #room(plan: BusPlan): number {
    return mostRunIn(this.sampleRate) + plan.timing.latency + 4 * BLOCK;
  }

  #stream({ steps }: BusPlan, begin: number): SoundStream {
    if (steps.length === 0) return new InputReader(this, this.#position);
    return new ChainStream(
      new InputReader(this, begin),
      steps,
      this.sampleRate,
      this.#position,
      busPlace(this.source, begin),
      BUS_BLOCK
    );
  }

  /** Its input from a position on, let in as far as it has not come yet. */
  input(from: number, n: number, l: number, r: number): void {
    const missing = from + n - this.#history.end;
    if (missing > 0) this.#history.append(missing, this.flow);
    this.#history.read(from, n, l, r);
  }

  inputNeeded(to: number): FrameRange[] {
    return to > this.#history.end ? this.flow.needed(to) : [];
  }

  /**
   * Whether it can go over to a changed plan. It cannot when its lines changed, nor when it has not heard enough, as soon after a start: then
   * another must be made.
   */
  takes(plan: BusPlan): boolean {
    if (!sameLines(plan.lines, this.#lines)) return false;
    if (this.whole && this.#history.begin === this.begin) return true;
    return (
      alike(plan.steps, this.#steps) ||
      this.#history.begin <= this.#position - runIn(plan.timing, this.sampleRate)
    );
  }

  /** Goes over to a changed plan that it `takes`. */
  update(plan: BusPlan): void {
    this.#gains.moveTo(plan.left, plan.right, this.change);
    if (alike(plan.steps, this.#steps)) return;
    this.#steps = plan.steps;
    this.#latency = plan.timing.latency;
    const patience = this.gentle ? (PATIENCE_SECONDS + 1) * this.sampleRate : 0;
    this.#history.hold(this.#room(plan) + patience + Math.max(0, this.#history.end - this.#position));
    const begin = Math.max(this.#history.begin, this.#position - runIn(plan.timing, this.sampleRate));
    // One that was still on its way is given up.
    this.#runs = this.#runs.filter((run) => {
      if (run.at !== undefined) run.stream.release();
      return run.at === undefined;
    });
    const run = {
      stream: this.#stream(plan, begin),
      gains: new Gains(0, 0),
      at: this.#position,
      since: this.#position
    };
    this.#runs.push(run);
    if (!this.gentle) this.#turnTo(run);
  }

  /** Lets a run take the place of the others. */
  #turnTo(run: Run): void {
    run.at = undefined;
    for (const other of this.#runs)
      other.gains.moveTo(other === run ? 1 : 0, other === run ? 1 : 0, this.change);
  }

  /** Brings a run up to what sounds, by about n frames. Returns whether it is there. */
  #bring(run: Run, n: number): boolean {
    const next = catchUp(run.stream, run.at ?? this.#position, this.#position, n, this.#one);
    if (next === undefined) return false;
    run.at = next;
    return next === this.#position;
  }

  /** Whether the chain that sounds is that of the plan. */
  get settled(): boolean {
    return this.#runs.every(({ at }) => at === undefined);
  }

  /** Works off about n frames of run-ins: of its chain, of one that takes its place. Returns whether nothing of that is left. */
  advance(n: number): boolean {
    let done = true;
    for (const run of this.#runs)
      done = (run.at === undefined ? (run.stream.warm?.(n) ?? true) : this.#bring(run, n)) && done;
    return done;
  }

  /** Comes in from silence, or goes out to it. */
  fade(direction: "in" | "out", { left, right }: Pick<BusPlan, "left" | "right">): void {
    if (direction === "in") this.#gains.set(0, 0);
    this.#gains.moveTo(direction === "in" ? left : 0, direction === "in" ? right : 0, this.change);
  }

  /** Whether it is not heard, nor will be. */
  get silent(): boolean {
    return this.#gains.silent;
  }

  /** Adds the next n ≤ BLOCK frames to two f32 blocks. */
  add(l: number, r: number, n: number): void {
    const { left, right } = this.#sum;
    const at = this.#position;
    this.#treat(left.ptr, right.ptr, n);
    if (this.#lines) linesBlock(this.#lines, at, left.ptr, right.ptr, n);
    this.#gains.add(l, r, left.ptr, right.ptr, n);
  }

  /** Writes the next n ≤ BLOCK frames to two f32 blocks. */
  read(l: number, r: number, n: number): void {
    if (this.#gains.unity && !this.#lines) {
      this.#treat(l, r, n);
      return;
    }
    kernels.clear(l, n);
    kernels.clear(r, n);
    this.add(l, r, n);
  }

  /** The next n frames behind the chain. */
  #treat(l: number, r: number, n: number): void {
    for (const run of this.#runs) {
      if (run.at === undefined) continue;
      const late = this.#position > run.since + PATIENCE_SECONDS * this.sampleRate;
      while (late && !this.#bring(run, BLOCK));
      if (run.at === this.#position && this.#bring(run, 0)) this.#turnTo(run);
    }
    this.#position += n;
    const first = this.#runs[0];
    if (this.#runs.length === 1 && first.gains.unity) {
      first.stream.read(l, r, n);
      return;
    }
    kernels.clear(l, n);
    kernels.clear(r, n);
    const { left, right } = this.#one;
    for (const { stream, gains, at } of this.#runs) {
      if (at !== undefined) continue;
      stream.read(left.ptr, right.ptr, n);
      gains.add(l, r, left.ptr, right.ptr, n);
    }
    this.#runs = this.#runs.filter((run) => {
      const over = run.at === undefined && run.gains.silent;
      if (over) run.stream.release();
      return !over;
    });
  }

  /** Frames of recordings that reading n more frames may take. */
  needed(n: number): FrameRange[] {
    return this.#runs.flatMap((run) => [
      ...run.stream.needed(n + this.#position - (run.at ?? this.#position))
    ]);
  }

  /** What begins to be read when n more frames are. */
  parts(n: number): SoundPart[] {
    return this.flow.parts(this.#position + n + this.#latency + BLOCK);
  }

  release(): void {
    for (const run of this.#runs) run.stream.release();
    this.#runs = [];
    this.#history.release();
    this.#one.release();
    this.#sum.release();
    this.flow.release();
  }
}
