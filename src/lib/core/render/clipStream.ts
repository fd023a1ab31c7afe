import type { FrameRange, SoundStream } from "../audio/soundStream";
import type { ResolvedClip } from "../session/lookup";
import { shapeBlock } from "./clipShape";
import { openPart, type Reach } from "./partStream";
import { partOf } from "./soundPart";
import type { Source } from "./source";

export interface ClipStreamOptions extends Reach {
  /** Whether gain, gain line and fades are applied; true unless said. */
  readonly shaped?: boolean;
}

/** The sound of one clip, from any position on: window → chain → gain → fades. Before its start and after its end the chain hears silence. */
export class ClipStream implements SoundStream {
  readonly #stream: SoundStream;
  readonly #shaped: boolean;
  #position: number;

  /** @param position frames after the clip's start from which on it is read; negative within `before` */
  constructor(
    private readonly clip: ResolvedClip,
    source: Source,
    sampleRate: number,
    position = 0,
    { shaped = true, ...reach }: ClipStreamOptions = {}
  ) {
    this.#shaped = shaped;
    this.#stream = openPart(partOf(clip), source, sampleRate, position, reach);
    this.#position = position;
  }

  read(l: number, r: number, n: number): void {
    this.#stream.read(l, r, n);
    if (this.#shaped) shapeBlock(this.clip, this.#position, l, r, n);
    this.#position += n;
  }

  needed(n: number): readonly FrameRange[] {
    return this.#stream.needed(n);
  }

  release(): void {
    this.#stream.release();
  }
}
