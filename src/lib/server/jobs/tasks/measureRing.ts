import { measuredRing } from "$lib/core/render/ringMeasure";
import { FileSource } from "../../media/fileSource";
import type { RingTask, Tick } from "./task";

export function measureRing({ part, sampleRate, files }: RingTask, tick: Tick): { readonly frames: number } {
  const source = new FileSource(files, sampleRate);
  try {
    return { frames: measuredRing(part, source, sampleRate, tick) };
  } finally {
    source.close();
  }
}
