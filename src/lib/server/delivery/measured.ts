// Measuring what is delivered.
import { Meter, type Measurement } from "$lib/core/measure/meter";
import { channelWeights } from "$lib/core/measure/channelWeights";
import { eachBlock } from "../media/eachBlock";
import { WavFile } from "../media/wavFile";
import type { ShapedSound } from "./shaped";

function metered(
  channels: number,
  sampleRate: number,
  each: (push: (src: number, stride: number, frames: number) => void) => void
): Measurement {
  const meter = new Meter(sampleRate, { weights: channelWeights(channels) });
  try {
    each((src, stride, frames) =>
      meter.pushChannels(
        Array.from({ length: channels }, (_, c) => src + c * stride),
        frames
      )
    );
    return meter.result();
  } finally {
    meter.release();
  }
}

/** Levels of a sound before its gain. */
export function measureShaped(sound: ShapedSound, tick: (share: number) => void): Measurement {
  return metered(sound.channels, sound.sampleRate, (push) => sound.read(0, push, tick));
}

/** Levels of a WAV file, as it is read again. */
export function measureWav(
  file: string,
  tick: (share: number) => void
): { measurement: Measurement; frames: number } {
  const wav = new WavFile(file);
  const { channels, sampleRate, frames } = wav.layout;
  try {
    const measurement = metered(channels, sampleRate, (push) =>
      eachBlock(wav, (planar, stride, n, at) => {
        push(planar.ptr, stride, n);
        tick((at + n) / frames);
      })
    );
    return { measurement, frames };
  } finally {
    wav.close();
  }
}
