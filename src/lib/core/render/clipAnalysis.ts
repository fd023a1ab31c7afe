import { fadeBlock } from "../audio/fadeCurve";
import { kernels } from "../kernels/instance";
import type { ResolvedClip } from "../session/lookup";
import { dbToGain } from "../units/decibels";
import { ChainAnalyser, type SheetStep } from "./chainAnalysis";
import { learntOf, openInput, sounding } from "./partStream";
import { partOf } from "./soundPart";
import type { Source } from "./source";

/** Analyses a clip's chain. The render is left out of account: levels are the chain's. */
export function analyseClip(
  clip: ResolvedClip,
  source: Source,
  sampleRate: number,
  bins: number
): ChainAnalyser {
  const { length, gainDb } = clip;
  const part = partOf(clip.render ? { ...clip, render: null } : clip);
  const gain = dbToGain(gainDb);
  return new ChainAnalyser(
    {
      input: openInput(part, source, sampleRate, 0),
      steps: sounding(part) as readonly SheetStep[],
      length,
      frames: length,
      position: 0,
      origin: part.origin,
      learnt: learntOf(part, source, sampleRate),
      sound: (id) => source.sound?.(id),
      shape(position, l, r, n) {
        kernels.gain(l, n, gain);
        kernels.gain(r, n, gain);
        const skip = Math.max(0, Math.min(n, -position));
        const m = Math.min(n - skip, length - (position + skip));
        if (m > 0) fadeBlock(clip, position + skip, l + skip * 4, r + skip * 4, m);
      }
    },
    sampleRate,
    bins
  );
}
