// Recordings' samples in the browser: fetched in chunks, kept in the core's memory.
import type { LessonJson } from "$lib/api/listening";
import type { FrameRange } from "$lib/core/audio/soundStream";
import type { Samples } from "$lib/core/effects/description";
import { ChainLearner } from "$lib/core/effects/learning";
import { CHUNK_FRAMES, ChunkCache } from "$lib/core/render/chunkCache";
import { Lessons } from "$lib/core/render/lessons";
import { prePassOf } from "$lib/core/render/partStream";
import { partsToLearn, prePassKey } from "$lib/core/render/prePass";
import { askedBy, type SoundPart } from "$lib/core/render/soundPart";
import type { Source } from "$lib/core/render/source";
import { get as getHere, type Getter, type Gotten } from "./getter";

/** 128 MB of samples. */
const CAPACITY = 512;
/** Longest recording that is loaded as a whole, seconds. */
const MAX_SOUND_SECONDS = 20;
/** Longest part that the page hears itself, seconds: what is longer is heard where its sound lies. */
export const MAX_OWN_SECONDS = 60;
/** Frames that are learnt from at a time: short enough that playing goes on in between. */
const SPAN = 1 << 14;

/** Learns elsewhere; undefined when it is no longer wanted. */
export type FarLearner = (
  part: SoundPart,
  wanted: () => boolean,
  report: (share: number) => void
) => Promise<LessonJson | undefined>;

/** The audio of a recording is not where it should be. */
export class AbsentSound extends Error {
  constructor(
    readonly recordingId: string,
    message: string
  ) {
    super(message);
  }
}

interface Guest {
  readonly wanted: () => boolean;
  readonly report: (share: number) => void;
}

/** All who wait for the same to be learnt. */
interface Party {
  readonly guests: Set<Guest>;
  done: Promise<boolean>;
}

export class ChunkStore implements Source {
  readonly #cache = new ChunkCache(CAPACITY);
  readonly #coming = new Map<string, Promise<void>>();
  readonly learnt: Lessons;
  readonly #sounds = new Map<string, Samples>();
  /** What is being learnt, and for whom. */
  readonly #learning = new Map<string, Party>();

  /** @param far learns elsewhere what comes along as numbers; left out: all is learnt here */
  constructor(
    private readonly sampleRate: number,
    private readonly far?: FarLearner,
    private readonly get: Getter = getHere
  ) {
    this.learnt = new Lessons(sampleRate);
  }

  read(recordingId: string, from: number, frames: number, left: number, right: number): void {
    this.#cache.read(recordingId, from, frames, left, right);
  }

  sound(recordingId: string): Samples | undefined {
    return this.#sounds.get(recordingId);
  }

  /** Whether parts can sound at once: what their steps must learn is learnt, and the recordings that are asked for are here. */
  prepared(parts: readonly SoundPart[], asked: readonly string[] = []): boolean {
    const learns = this.#toLearn(parts);
    this.learnt.use(new Set(learns.map(({ key }) => key)));
    return (
      learns.every(({ key }) => this.learnt.has(key)) &&
      [...asked, ...parts.flatMap(askedBy)].every((id) => this.#sounds.has(id))
    );
  }

  /** Whether all that the steps of a part must learn is learnt. */
  knows(part: SoundPart): boolean {
    return this.#toLearn([part]).every(({ key }) => this.learnt.has(key));
  }

  /** What must be learnt for parts, in order: of recordings with a chain first. */
  #toLearn(parts: readonly SoundPart[]): { part: SoundPart; key: string }[] {
    return parts
      .flatMap((part) => partsToLearn(part, this.sampleRate))
      .map((part) => ({ part, key: prePassKey(part, this.sampleRate) ?? "" }));
  }

  /**
   * Makes parts ready to sound. Ends early, with false, when `wanted` says that they are no longer wanted.
   * @param asked recordings that chains of tracks and the mix ask for
   * @param report told the share that is done of what is being learnt
   * @throws when the server cannot give what is needed
   */
  async prepare(
    parts: readonly SoundPart[],
    wanted: () => boolean,
    report: (share: number) => void = () => undefined,
    asked: readonly string[] = []
  ): Promise<boolean> {
    const all = [...asked, ...parts.flatMap(askedBy)];
    for (const id of all) if (!this.#sounds.has(id)) await this.#loadSound(id);
    for (const { part, key } of this.#toLearn(parts))
      if (!(await this.#join(part, key, wanted, report))) return false;
    return wanted();
  }

  /** Learns what is not known; with whoever learns it already. False when it is no longer wanted. */
  async #join(
    part: SoundPart,
    key: string,
    wanted: () => boolean,
    report: (share: number) => void
  ): Promise<boolean> {
    while (!this.learnt.has(key)) {
      const party = this.#learning.get(key) ?? { guests: new Set(), done: Promise.resolve(false) };
      const guest = { wanted, report };
      party.guests.add(guest);
      if (!this.#learning.has(key)) {
        this.#learning.set(key, party);
        const guests = () => [...party.guests];
        party.done = this.#learn(
          part,
          key,
          () => guests().some((one) => one.wanted()),
          (share) => guests().forEach((one) => one.report(share))
        ).finally(() => this.#learning.delete(key));
      }
      await party.done.finally(() => party.guests.delete(guest));
      // It was given up by all who waited then.
      if (!wanted()) return false;
    }
    return true;
  }

  async #learn(
    part: SoundPart,
    key: string,
    wanted: () => boolean,
    report: (share: number) => void
  ): Promise<boolean> {
    if (this.far) {
      const lesson = await this.far(part, wanted, report).catch(async (error: unknown) => {
        // What fails elsewhere does not say whether the recording is there at all.
        await this.ensure([{ recordingId: part.recordingId, from: part.offset, to: part.offset + 1 }]);
        throw error;
      });
      if (!lesson) return false;
      if (!lesson.sound) {
        this.learnt.set(
          key,
          lesson.learnt.map((values) => (values ? { values } : undefined))
        );
        return wanted();
      }
    }
    const learner = new ChainLearner(prePassOf(part, this, this.sampleRate));
    try {
      while (!learner.done) {
        await this.ensure(learner.needed(SPAN));
        await new Promise((resolve) => setTimeout(resolve));
        if (!wanted()) return false;
        learner.advance(SPAN);
        report(learner.progress);
      }
      this.learnt.set(key, learner.learnt, part.length);
      return true;
    } finally {
      if (!learner.done) learner.forget();
      learner.release();
    }
  }

  async #loadSound(id: string): Promise<void> {
    const parts: Float32Array[] = [];
    for (let chunk = 0; chunk * CHUNK_FRAMES < MAX_SOUND_SECONDS * this.sampleRate; chunk++) {
      const gotten = await this.get(this.#address(id, chunk));
      if (gotten.status === 404 && chunk > 0) break;
      parts.push(samplesOf(gotten, id));
    }
    const left = new Float32Array(parts.length * CHUNK_FRAMES);
    const right = new Float32Array(parts.length * CHUNK_FRAMES);
    parts.forEach((part, i) => {
      left.set(part.subarray(0, CHUNK_FRAMES), i * CHUNK_FRAMES);
      right.set(part.subarray(CHUNK_FRAMES), i * CHUNK_FRAMES);
    });
    // The last chunk is filled up with silence, which a file has not.
    let end = left.length;
    while (end > 1 && left[end - 1] === 0 && right[end - 1] === 0) end--;
    this.#sounds.set(id, { left: left.slice(0, end), right: right.slice(0, end) });
  }

  /** Gives the memory back. */
  release(): void {
    this.#cache.release();
    this.learnt.release();
  }

  #address(id: string, chunk: number): string {
    return `/api/recordings/${id}/chunks/${this.sampleRate}/${chunk}`;
  }

  #missing(ranges: readonly FrameRange[]): [id: string, chunk: number][] {
    const out: [string, number][] = [];
    for (const { recordingId, from, to } of ranges)
      for (let chunk = Math.max(0, Math.floor(from / CHUNK_FRAMES)); chunk * CHUNK_FRAMES < to; chunk++)
        if (!this.#cache.has(recordingId, chunk)) out.push([recordingId, chunk]);
    return out;
  }

  hasAll(ranges: readonly FrameRange[]): boolean {
    return this.#missing(ranges).length === 0;
  }

  /** Fetches what is missing. @throws when the server cannot give it */
  async ensure(ranges: readonly FrameRange[]): Promise<void> {
    await Promise.all(this.#missing(ranges).map(([id, chunk]) => this.#fetch(id, chunk)));
  }

  #fetch(id: string, chunk: number): Promise<void> {
    const key = `${id}/${chunk}`;
    let coming = this.#coming.get(key);
    if (!coming) {
      coming = this.#load(id, chunk).finally(() => this.#coming.delete(key));
      this.#coming.set(key, coming);
    }
    return coming;
  }

  async #load(id: string, chunk: number): Promise<void> {
    const gotten = await this.get(this.#address(id, chunk));
    // Beyond the recording's end there is silence.
    const samples = gotten.status === 404 ? new Float32Array(2 * CHUNK_FRAMES) : samplesOf(gotten, id);
    const block = this.#cache.put(id, chunk);
    block.left.f32.set(samples.subarray(0, CHUNK_FRAMES));
    block.right.f32.set(samples.subarray(CHUNK_FRAMES));
  }
}

function samplesOf({ status, bytes, error }: Gotten, id: string): Float32Array {
  if (bytes) return new Float32Array(bytes);
  throw status === 410 ? new AbsentSound(id, error) : new Error(error);
}
