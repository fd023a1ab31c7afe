import type { Learnt } from "../effects/description";

/** Most that is kept, and frames of sound among it. */
const MOST = 500;
const MOST_SOUND_SECONDS = 600;

/** Room for what steps have learnt, by `prePassKey`: a Map will do. */
export interface LearntStore {
  get(key: string): readonly (Learnt | undefined)[] | undefined;
  set(key: string, learnt: readonly (Learnt | undefined)[]): void;
}

interface Lesson {
  readonly learnt: readonly (Learnt | undefined)[];
  readonly frames: number;
}

/** What steps have learnt, the least recently used going first; what is in use stays. */
export class Lessons implements LearntStore {
  /** The least recently used first. */
  readonly #kept = new Map<string, Lesson>();
  #inUse: ReadonlySet<string> = new Set();
  #before: ReadonlySet<string> = new Set();
  #frames = 0;

  constructor(private readonly sampleRate: number) {}

  has(key: string): boolean {
    return this.#kept.has(key);
  }

  get(key: string): readonly (Learnt | undefined)[] | undefined {
    const lesson = this.#kept.get(key);
    if (!lesson) return undefined;
    this.#kept.delete(key);
    this.#kept.set(key, lesson);
    return lesson.learnt;
  }

  /** @param frames of sound that it holds */
  set(key: string, learnt: readonly (Learnt | undefined)[], frames = 0): void {
    const held = learnt.some((one) => one?.sound) ? frames : 0;
    this.#kept.delete(key);
    this.#kept.set(key, { learnt, frames: held });
    this.#frames += held;
    this.#drop(key);
  }

  /** Says what is used now. It stays, and what was used before: that may still be fading out. */
  use(keys: ReadonlySet<string>): void {
    if (keys.size === 0) return;
    if (keys.size === this.#inUse.size && [...keys].every((key) => this.#inUse.has(key))) return;
    this.#before = this.#inUse;
    this.#inUse = keys;
  }

  #drop(newest: string): void {
    for (const [key, { learnt, frames }] of this.#kept) {
      if (this.#kept.size <= MOST && this.#frames <= MOST_SOUND_SECONDS * this.sampleRate) return;
      if (key === newest || this.#inUse.has(key) || this.#before.has(key)) continue;
      for (const one of learnt) one?.sound?.release();
      this.#kept.delete(key);
      this.#frames -= frames;
    }
  }

  /** Gives the memory back. */
  release(): void {
    for (const { learnt } of this.#kept.values()) for (const one of learnt) one?.sound?.release();
    this.#kept.clear();
    this.#frames = 0;
  }
}
