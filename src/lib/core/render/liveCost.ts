// What it costs to compute treatment while it plays, measured with noise, and which clips are best rendered for that.
import { BLOCK, StereoBlock } from "../audio/block";
import type { Samples } from "../effects/description";
import { kernels } from "../kernels/instance";
import { byPlace, resolveClip, type ResolvedClip } from "../session/lookup";
import { CHUNK_FRAMES, ChunkCache } from "./chunkCache";
import type { Plan } from "./graph";
import { openPart } from "./partStream";
import { partOf, type SoundPart } from "./soundPart";
import type { Source } from "./source";

/** Pieces that are timed, after one that warms up: the quickest counts, the others were held up. */
const PIECES = 4;
const PIECE_BLOCKS = 48;
const NOISE_DB = -20;

/** Noise as every recording: there is something to do for every step. */
class NoiseSource implements Source {
  readonly learnt = new Map();
  readonly #noise = Float32Array.from({ length: 2 * CHUNK_FRAMES }, noise());
  readonly #cache = new ChunkCache(4, (_id, _chunk, left, right) => {
    new Float32Array(kernels.memory.buffer, left, CHUNK_FRAMES).set(this.#noise.subarray(0, CHUNK_FRAMES));
    new Float32Array(kernels.memory.buffer, right, CHUNK_FRAMES).set(this.#noise.subarray(CHUNK_FRAMES));
  });

  read(id: string, from: number, frames: number, left: number, right: number): void {
    this.#cache.read(id, from, frames, left, right);
  }

  /** A room of two thirds of a second, for steps that ask for one. */
  sound(): Samples {
    const room = (from: number) =>
      this.#noise.slice(from, from + CHUNK_FRAMES).map((x, i) => x * Math.exp((-7 * i) / CHUNK_FRAMES));
    return { left: room(0), right: room(CHUNK_FRAMES) };
  }

  release(): void {
    this.#cache.release();
  }
}

/** White noise of NOISE_DB by Marsaglia's xorshift (2003), the same each time. */
function noise(): () => number {
  let x = 2463534242;
  const most = Math.sqrt(3) * 10 ** (NOISE_DB / 20);
  return () => {
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    return (x / 2 ** 31) * most;
  };
}

/** A part of noise that goes through the steps of another over all of it. */
function noisePart({ steps, under }: SoundPart, length: number): SoundPart {
  return {
    recordingId: "noise",
    offset: 0,
    length,
    origin: 0,
    steps: steps.map(({ span: _span, ...step }) => step),
    under: under && noisePart({ ...under, under: undefined }, length)
  };
}

/**
 * Share of one core that a part's steps take while they play; those that need its whole sound have it already.
 * @param clock milliseconds
 */
export function liveShare(part: SoundPart, sampleRate: number, clock: () => number): number {
  const source = new NoiseSource();
  const frames = PIECE_BLOCKS * BLOCK;
  const block = new StereoBlock(BLOCK);
  const stream = openPart(noisePart(part, (PIECES + 1) * frames), source, sampleRate);
  try {
    const times = Array.from({ length: PIECES + 1 }, () => {
      const begin = clock();
      for (let i = 0; i < PIECE_BLOCKS; i++) stream.read(block.left.ptr, block.right.ptr, BLOCK);
      return clock() - begin;
    });
    return Math.min(...times.slice(1)) / 1000 / (frames / sampleRate);
  } finally {
    stream.release();
    block.release();
    source.release();
  }
}

/** A clip with steps that are computed while it plays. Those of the same recipe cost the same. */
export interface LiveClip {
  readonly clip: ResolvedClip;
  readonly part: SoundPart;
  readonly recipe: string;
}

/** The clips that sound and have steps that are computed while they play, in their order in time. */
export function liveClips({ document: doc, tracks }: Plan): LiveClip[] {
  const heard = new Set(tracks.map(({ id }) => id));
  return [...doc.values("clips")]
    .filter((clip) => !clip.muted && heard.has(clip.track))
    .sort(byPlace)
    .flatMap((one) => {
      const clip = resolveClip(doc, one);
      const part = partOf(clip);
      const steps = [...part.steps, ...(part.under?.steps ?? [])].filter((step) => step.on);
      if (steps.length === 0) return [];
      const recipe = JSON.stringify(steps.map(({ effect, params }) => [effect, params]));
      return [{ clip, part, recipe }];
    });
}

/** A clip from a frame of the timeline to another, and the share of a core that it takes between them. */
export interface ClipCost {
  readonly id: string;
  readonly from: number;
  readonly to: number;
  readonly share: number;
}

/** Where most is taken at once: share of a core, and the frame from which on. */
export function busiest(costs: readonly ClipCost[]): { readonly share: number; readonly at: number } {
  let [share, at, most] = [0, 0, 0];
  for (const { by, frame } of edges(costs)) {
    share += by;
    if (share > most + 1e-12) [most, at] = [share, frame];
  }
  return { share: most, at };
}

function edges(costs: readonly ClipCost[]): { frame: number; by: number }[] {
  return costs
    .flatMap(({ from, to, share }) => [
      { frame: from, by: share },
      { frame: to, by: -share }
    ])
    .sort((a, b) => a.frame - b.frame || a.by - b.by);
}

/**
 * The clips to render so that nowhere more than `share` of a core is taken: wherever more is, the dearest of those that sound there. At least
 * the dearest of all.
 * @returns their ids
 */
export function dearest(costs: readonly ClipCost[], share: number): Set<string> {
  const chosen = new Set<string>();
  let sounding: ClipCost[] = [];
  for (const cost of [...costs].sort((a, b) => a.from - b.from)) {
    sounding = sounding.filter(({ id, to }) => to > cost.from && !chosen.has(id));
    sounding.push(cost);
    for (let sum = sounding.reduce((all, one) => all + one.share, 0); sum > share;) {
      const left = sounding.filter(({ id }) => !chosen.has(id));
      const most = left.reduce<ClipCost | undefined>((a, b) => (a && a.share >= b.share ? a : b), undefined);
      if (!most) break;
      chosen.add(most.id);
      sum -= most.share;
    }
  }
  const first = costs.reduce<ClipCost | undefined>((a, b) => (a && a.share >= b.share ? a : b), undefined);
  if (chosen.size === 0 && first) chosen.add(first.id);
  return chosen;
}
