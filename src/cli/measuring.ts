// Measuring a file as it is, in all its channels, or through a chain.
import { foldDown } from "$lib/core/audio/foldDown";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { kernels } from "$lib/core/kernels/instance";
import { channelWeights } from "$lib/core/measure/channelWeights";
import { Meter, type Measurement } from "$lib/core/measure/meter";
import type { Step } from "$lib/core/session/schema";
import { WavFile } from "$lib/server/media/wavFile";
import { reading, type Input } from "./input";
import type { Work } from "./outcome";
import { run, treat } from "./treated";

const BLOCK_FRAMES = 1 << 16;

export interface Measured {
  readonly measurement: Measurement;
  readonly channels: number;
}

/** All channels of a stretch of a file; with `mono`, folded to one (ITU-R BS.775, then half of left plus half of right). */
function plain(input: Input, from: number, to: number, mono: boolean, work: Work): Measured {
  const { channels, sampleRate } = input.layout;
  const file = new WavFile(input.path);
  const stride = BLOCK_FRAMES * 4;
  const planar = new KernelBuffer(stride * channels);
  const folded = new KernelBuffer(stride);
  const weights = channelWeights(mono ? 1 : channels);
  const meter = new Meter(sampleRate, { weights, annex2: true });
  const addresses = weights.map((_, c) => (mono ? folded.ptr : planar.ptr + c * stride));
  try {
    for (let at = from; at < to; at += BLOCK_FRAMES) {
      const n = file.read(at, Math.min(BLOCK_FRAMES, to - at), planar.ptr, stride);
      if (mono) {
        kernels.clear(folded.ptr, n);
        foldDown(channels).forEach(([left, right], c) =>
          kernels.addScaled(folded.ptr, planar.ptr + c * stride, n, (left + right) / 2)
        );
      }
      meter.pushChannels(addresses, n);
      work.progress(`measuring ${input.name}`, (at + n - from) / (to - from));
    }
    return { measurement: meter.result(), channels: weights.length };
  } finally {
    file.close();
    meter.release();
    planar.release();
    folded.release();
  }
}

/** Measures a stretch of a file, through a chain if there is one. */
export function measureFile(
  input: Input,
  [from, to]: readonly [number, number],
  steps: readonly Step[] | undefined,
  mono: boolean,
  work: Work
): Measured {
  return reading(input, () =>
    steps ? throughChain(input, [from, to], steps, mono, work) : plain(input, from, to, mono, work)
  );
}

function throughChain(
  input: Input,
  [from, to]: readonly [number, number],
  steps: readonly Step[],
  mono: boolean,
  work: Work
): Measured {
  const treated = treat(input, steps, from, to);
  const channels = mono ? 1 : treated.channels;
  const meter = new Meter(treated.sampleRate, { weights: channelWeights(channels), annex2: true });
  try {
    run(treated, (l, r, n, done) => {
      if (mono) {
        kernels.gain(l, n, 0.5);
        kernels.addScaled(l, r, n, 0.5);
      }
      meter.push(l, r, n);
      work.progress(`measuring ${input.name}`, done / (to - from));
    });
    return { measurement: meter.result(), channels };
  } finally {
    meter.release();
    treated.source.close();
  }
}
