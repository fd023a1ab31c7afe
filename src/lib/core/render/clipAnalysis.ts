import type { SoundStream } from "../audio/soundStream";
import { chainTiming } from "../effects/chain";
import type { ResolvedClip } from "../session/lookup";
import type { Clip } from "../session/schema";
import { openShape, shapeBlock, type ClipShape } from "./clipShape";
import { ChainAnalyser, type Analysed, type SheetStep } from "./chainAnalysis";
import { runIn } from "./chainStream";
import { learntOf, openInput, sounding } from "./partStream";
import { insideOf, partOf, type SoundPart } from "./soundPart";
import type { Source } from "./source";

/** What follows a part's chain: the gain, the line and the fades of a clip; a recording has none. */
export type Shape = Omit<ClipShape, "length"> | null;

/** The shape of a clip behind its chain, and nothing else of it. */
export function shapeOf(clip: ClipShape & Pick<Clip, "ringOut">): NonNullable<Shape> {
  const { gainDb, line, offset, fadeIn, fadeOut } = clip.ringOut ? openShape(clip) : clip;
  return { gainDb, offset, fadeIn, fadeOut, ...(line ? { line } : {}) };
}

/** Where an analysis begins: with the sound behind a step that was kept. */
export interface KeptPoint {
  readonly input: SoundStream;
  /** Id of the step behind which it was kept. */
  readonly after: string;
}

/** A clip's part as its chain makes it: the render is left out of account. */
export function barePart(clip: ResolvedClip): SoundPart {
  return partOf(clip.render ? { ...clip, render: null } : clip);
}

/** All of a recording, through some steps. */
export function wholePart(recordingId: string, frames: number, steps: SoundPart["steps"]): SoundPart {
  return { recordingId, offset: 0, length: frames, origin: 0, steps };
}

/** The steps of a part that are heard, with their identity. */
export function sheetSteps(part: SoundPart): readonly SheetStep[] {
  return sounding(part) as readonly SheetStep[];
}

function neutral({ gainDb, line, fadeIn, fadeOut }: NonNullable<Shape>): boolean {
  return gainDb === 0 && !line && fadeIn.length === 0 && fadeOut.length === 0;
}

function shaper(shape: NonNullable<Shape>, length: number): Analysed["shape"] {
  return (position, l, r, n) => {
    const skip = Math.max(0, Math.min(n, -position));
    const m = Math.min(n - skip, length - (position + skip));
    if (m > 0) shapeBlock({ ...shape, length }, position + skip, l + skip * 4, r + skip * 4, m);
  };
}

/**
 * Analyses the chain of a clip or of a recording: what is let be heard of it.
 * @param options what `from` was kept of lies at the part's first frame: of a part that hears beyond what is heard nothing can be kept
 */
export function analysePart(
  part: SoundPart,
  shape: Shape,
  source: Source,
  sampleRate: number,
  bins: number,
  options: Pick<Analysed, "measures" | "keep" | "within" | "clock" | "traced" | "spectra" | "annex2"> & {
    readonly from?: KeptPoint;
  } = {}
): ChainAnalyser {
  const { from: start, length } = insideOf(part);
  const all = sheetSteps(part);
  const position = Math.max(0, start - runIn(chainTiming(all, sampleRate), sampleRate));
  const { from, measures, keep, within, clock, traced, spectra, annex2 } = options;
  const first = from ? all.findIndex((step) => step.id === from.after) + 1 : 0;
  return new ChainAnalyser(
    {
      input: from?.input ?? openInput(part, source, sampleRate, position),
      steps: all.slice(first),
      length,
      lead: start - position,
      frames: part.length,
      position,
      origin: part.origin,
      learnt: learntOf(part, source, sampleRate).slice(first),
      sound: (id) => source.sound?.(id),
      shape: shape && !neutral(shape) ? shaper(shape, length) : undefined,
      within,
      annex2,
      clock,
      traced,
      spectra,
      ...(measures ? { measures } : {}),
      ...(keep ? { keep } : {})
    },
    sampleRate,
    bins
  );
}
