// A range of a file with a chain, as it is measured and rendered.
import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import { ClipStream } from "$lib/core/render/clipStream";
import type { ResolvedClip } from "$lib/core/session/lookup";
import { newClip } from "$lib/core/session/make";
import type { Step } from "$lib/core/session/schema";
import { FileSource } from "$lib/server/media/fileSource";
import { recordingFiles, widens } from "./chains";
import type { Input } from "./input";
import { CouldNot } from "./outcome";

const FILE = "input";

export interface Treatment {
  readonly clip: ResolvedClip;
  readonly source: FileSource;
  readonly sampleRate: number;
  /** Channels of what comes out: a mono file stays mono when its chain lets it. */
  readonly channels: 1 | 2;
}

/** @throws CouldNot for more than two channels: effects work on one or two */
export function treat(input: Input, steps: readonly Step[], from: number, to: number): Treatment {
  const { channels, sampleRate } = input.layout;
  if (channels > 2)
    throw new CouldNot(`"${input.name}" has ${channels} channels; effects work on one or two`);
  const window = { offset: from, length: to - from };
  const whole = newClip(FILE, FILE, { id: FILE, name: input.name, frames: input.layout.frames }, 0, window);
  const below = { recordingFrames: input.layout.frames, recordingSteps: [] };
  const clip = { ...whole, recordingId: FILE, ...below, steps };
  const made = channels === 1 && !widens(steps) ? 1 : 2;
  const source = new FileSource({ [FILE]: input.path, ...recordingFiles(steps) }, sampleRate, made);
  return { clip, source, sampleRate, channels: made };
}

/** Runs the clip, block by block. */
export function run(
  { clip, source, sampleRate }: Treatment,
  visit: (l: number, r: number, n: number, done: number) => void
): void {
  const stream = new ClipStream(clip, source, sampleRate);
  const block = new StereoBlock();
  try {
    for (let at = 0; at < clip.length; at += BLOCK) {
      const n = Math.min(BLOCK, clip.length - at);
      stream.read(block.left.ptr, block.right.ptr, n);
      visit(block.left.ptr, block.right.ptr, n, at + n);
    }
  } finally {
    stream.release();
    block.release();
  }
}
