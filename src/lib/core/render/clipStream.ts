import type { FrameRange, SoundStream } from "../audio/soundStream";
import type { ResolvedClip } from "../session/lookup";
import { openShape, shapeBlock } from "./clipShape";
import { openPart, type Reach } from "./partStream";
import { closeRing, ringFrames } from "./ringOut";
import { insideOf, partOf } from "./soundPart";
import type { Source } from "./source";

export interface ClipStreamOptions extends Reach {
  /** Whether gain, gain line and fades are applied; true unless said. */
  readonly shaped?: boolean;
}

/** What lies behind a clip's chain. Of one that rings out the closing fade lies before it. */
function shaperOf(clip: ResolvedClip, sampleRate: number) {
  if (!clip.ringOut) return (at: number, l: number, r: number, n: number) => shapeBlock(clip, at, l, r, n);
  const rings = ringFrames(clip, sampleRate);
  const shape = openShape(clip);
  return (at: number, l: number, r: number, n: number) => {
    shapeBlock(shape, at, l, r, n);
    closeRing(clip.length, rings, sampleRate, at, l, r, n);
  };
}

/** The sound of one clip, from any position on: window → chain → gain → fades; one that rings out can be read on after its end. Before its start and after its end the chain hears silence, or what the clip was cut off. */
export class ClipStream implements SoundStream {
  readonly #stream: SoundStream;
  readonly #shaped: ((position: number, l: number, r: number, n: number) => void) | undefined;
  #position: number;

  /** @param position frames after the clip's start from which on it is read; negative within `before` */
  constructor(
    clip: ResolvedClip,
    source: Source,
    sampleRate: number,
    position = 0,
    { shaped = true, ...reach }: ClipStreamOptions = {}
  ) {
    this.#shaped = shaped ? shaperOf(clip, sampleRate) : undefined;
    const part = partOf(clip);
    const { from, length } = insideOf(part);
    // What the chain hears beyond the clip's edges is there anyway.
    const before = Math.max(0, (reach.before ?? 0) - from);
    const after = Math.max(0, (reach.after ?? 0) - (part.length - from - length));
    this.#stream = openPart(part, source, sampleRate, position + from, { before, after });
    this.#position = position;
  }

  read(l: number, r: number, n: number): void {
    this.#stream.read(l, r, n);
    this.#shaped?.(this.#position, l, r, n);
    this.#position += n;
  }

  warm(n: number): boolean {
    return this.#stream.warm?.(n) ?? true;
  }

  needed(n: number): readonly FrameRange[] {
    return this.#stream.needed(n);
  }

  release(): void {
    this.#stream.release();
  }
}
