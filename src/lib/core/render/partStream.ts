import { BLOCK } from "../audio/block";
import { closeBlock } from "../audio/fades";
import { MemorySpool } from "../audio/spool";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import { kernels } from "../kernels/instance";
import { chainTiming, type StepSpec } from "../effects/chain";
import type { Learnt } from "../effects/description";
import { learnAll, type PrePass } from "../effects/learning";
import { dependsOnPlace } from "../effects/registry";
import type { Fade } from "../session/schema";
import { ChainStream, runIn } from "./chainStream";
import { prePassKey } from "./prePass";
import { RawStream } from "./rawStream";
import type { ResolvedClip } from "../session/lookup";
import { insideOf, partOf, type SoundPart } from "./soundPart";
import type { Source } from "./source";

/** Frames of the recording that a chain hears before the part and after it, instead of silence. */
export interface Reach {
  readonly before?: number;
  readonly after?: number;
}

/** The steps, with those off whose span does not touch what is heard: a step that depends on its place has the part's window alone. */
export function sounding(part: SoundPart, { before = 0, after = 0 }: Reach = {}): readonly StepSpec[] {
  const { steps, origin, length } = part;
  if (!steps.some((s) => s.on && s.span)) return steps;
  return steps.map((step) => {
    const { span } = step;
    if (!span || !step.on) return step;
    const placed = dependsOnPlace(step);
    const begin = origin - (placed ? 0 : before);
    const end = origin + length + (placed ? 0 : after);
    return span.from < end && span.to > begin && span.to > span.from ? step : { ...step, on: false };
  });
}

/** A part's sound before its own steps, from a frame of the part on; silence from `end` on. */
function inputOf(
  part: SoundPart,
  source: Source,
  sampleRate: number,
  from: number,
  end: number
): SoundStream {
  const { recordingId, offset, under, closing, length } = part;
  const stream = under
    ? new Cut(openPart(under, source, sampleRate, offset + from), end - from)
    : new RawStream(source, recordingId, offset + from, offset + end);
  return closing ? new Closed(stream, closing, length, from) : stream;
}

/** A stream with a fade before the end of a part of a length; `position` is where in the part it begins. */
class Closed implements SoundStream {
  constructor(
    private readonly stream: SoundStream,
    private readonly fadeOut: Fade,
    private readonly length: number,
    private position: number
  ) {}

  read(l: number, r: number, n: number): void {
    this.stream.read(l, r, n);
    const m = Math.min(n, this.length - this.position);
    const { length, fadeOut } = this;
    if (m > 0) closeBlock(length, fadeOut, this.position, l, r, m);
    this.position += n;
  }

  needed(n: number): readonly FrameRange[] {
    return this.stream.needed(n);
  }

  warm(n: number): boolean {
    return this.stream.warm?.(n) ?? true;
  }

  release(): void {
    this.stream.release();
  }
}

/** The first frames of a stream, then silence. */
class Cut implements SoundStream {
  #left: number;

  constructor(
    private readonly stream: SoundStream,
    frames: number
  ) {
    this.#left = Math.max(0, frames);
  }

  read(l: number, r: number, n: number): void {
    const inside = Math.min(n, this.#left);
    if (inside > 0) this.stream.read(l, r, inside);
    kernels.clear(l + inside * 4, n - inside);
    kernels.clear(r + inside * 4, n - inside);
    this.#left -= inside;
  }

  needed(n: number): readonly FrameRange[] {
    return this.stream.needed(Math.min(n, this.#left));
  }

  warm(n: number): boolean {
    return this.stream.warm?.(n) ?? true;
  }

  release(): void {
    this.stream.release();
  }
}

/**
 * The sound of a part from a position on: recording → its chain → window → chain. Before its start and behind its end the chain hears
 * silence, or, within `reach`, what the recording has there.
 * @param position frames after the part's start; negative within `reach.before`
 */
export function openPart(
  part: SoundPart,
  source: Source,
  sampleRate: number,
  position = 0,
  reach: Reach = {}
): SoundStream {
  const { before = 0, after: beyond = 0 } = reach;
  const after = beyond + (part.rings ?? 0);
  const end = part.length + after;
  const steps = sounding(part, { before, after });
  if (!steps.some((s) => s.on)) return inputOf(part, source, sampleRate, position, end);
  // What rings behind the end was sounded before it.
  const sounds = Math.min(position, end);
  const begin = Math.max(-before, sounds - runIn(chainTiming(steps, sampleRate), sampleRate));
  return new ChainStream(inputOf(part, source, sampleRate, begin, end), steps, sampleRate, position, {
    frames: part.length,
    position: begin,
    ends: end,
    origin: part.origin,
    learnt: learntOf(part, source, sampleRate),
    sound: (id) => source.sound?.(id)
  });
}

const NOTHING: readonly (Learnt | undefined)[] = [];

export function prePassOf(part: SoundPart, source: Source, sampleRate: number): PrePass {
  return {
    steps: part.steps,
    sampleRate,
    frames: part.length,
    origin: part.origin,
    channels: source.channels,
    open: (from) => openInput(part, source, sampleRate, from),
    sound: (id) => source.sound?.(id),
    spool: () => source.spool?.() ?? new MemorySpool()
  };
}

/** What the steps have learnt, by their index; learnt now when it is not kept yet. All frames must be at hand then. */
export function learntOf(
  part: SoundPart,
  source: Source,
  sampleRate: number
): readonly (Learnt | undefined)[] {
  const key = prePassKey(part, sampleRate);
  if (key === undefined) return NOTHING;
  let learnt = source.learnt?.get(key);
  if (!learnt) {
    learnt = learnAll(prePassOf(part, source, sampleRate));
    source.learnt?.set(key, learnt);
  }
  return learnt;
}

/** A part's sound before its own steps, as they learn from it. */
export function openInput(part: SoundPart, source: Source, sampleRate: number, from: number): SoundStream {
  return inputOf(part, source, sampleRate, from, part.length);
}

/** Frames of the recording that a clip's stream reads when it is started at `from` and read up to `to`, frames after the clip's start. */
export function clipNeeded(clip: ResolvedClip, sampleRate: number, from: number, to: number): FrameRange {
  const part = partOf(clip);
  const lead = insideOf(part).from;
  return neededOf(part, sampleRate, from + lead, to + lead);
}

/** Frames of the recording that a part's stream reads when it is started at `from` and read up to `to`, frames after the part's start. */
export function neededOf(part: SoundPart, sampleRate: number, from: number, to: number): FrameRange {
  const timing = chainTiming(part.steps, sampleRate);
  const last = part.length + (part.rings ?? 0);
  const begin = Math.max(0, Math.min(from, last) - runIn(timing, sampleRate));
  const end = Math.max(begin, Math.min(last, to + timing.latency + BLOCK));
  const { recordingId, offset, under } = part;
  if (under) return neededOf(under, sampleRate, offset + begin, offset + end);
  return { recordingId, from: offset + begin, to: offset + end };
}
