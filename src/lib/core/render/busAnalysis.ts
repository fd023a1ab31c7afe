import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import { kernels } from "../kernels/instance";
import { busPlace } from "./bus";
import type { BusInput } from "./busInput";
import { ChainAnalyser, type Analysed } from "./chainAnalysis";
import { chainTiming, type StepSpec } from "../effects/chain";
import { ChainStream, runIn } from "./chainStream";
import type { BusPlan, Plan } from "./graph";
import { TrackSum } from "./mix";
import type { Source } from "./source";
import { TrackFeed } from "./trackFeed";
import { linesBlock } from "./trackLines";

/** What flows into a bus, as a stream. */
class FlowStream implements SoundStream {
  constructor(
    private readonly flow: BusInput,
    private position: number
  ) {}

  read(l: number, r: number, n: number): void {
    kernels.clear(l, n);
    kernels.clear(r, n);
    for (let done = 0; done < n; done += BLOCK) {
      const m = Math.min(BLOCK, n - done);
      this.flow.add(l + done * 4, r + done * 4, m);
    }
    this.position += n;
  }

  needed(n: number): readonly FrameRange[] {
    return this.flow.needed(this.position + n);
  }

  release(): void {
    this.flow.release();
  }
}

function flowOf(plan: Plan, bus: BusPlan, source: Source, position: number): BusInput {
  if (bus.to === null) return new TrackSum(plan, source, position);
  const scratch = new StereoBlock(BLOCK);
  const feed = new TrackFeed({ plan, source, change: 0, scratch }, bus.id, position, 1, 1);
  return {
    add: (l, r, n) => feed.add(l, r, n),
    needed: (to) => feed.needed(to),
    parts: (to) => feed.parts(to),
    release() {
      feed.release();
      scratch.release();
    }
  };
}

/** A bus's sound behind some steps of its chain, from a position on, without its gains. */
export function openBus(
  plan: Plan,
  bus: BusPlan,
  steps: readonly StepSpec[],
  source: Source,
  position: number
): SoundStream {
  const { sampleRate } = plan;
  const begin = position - runIn(chainTiming(steps, sampleRate), sampleRate);
  const input = new FlowStream(flowOf(plan, bus, source, begin), begin);
  return new ChainStream(input, steps, sampleRate, position, busPlace(source, begin));
}

/** Analyses the chain of a track or of the mix over [from, to) of the timeline. */
export function analyseBus(
  plan: Plan,
  bus: BusPlan,
  source: Source,
  from: number,
  to: number,
  bins: number,
  options: Pick<Analysed, "traced" | "spectra" | "clock"> = {}
): ChainAnalyser {
  const { sampleRate } = plan;
  const lead = runIn(bus.timing, sampleRate);
  const position = from - lead;
  return new ChainAnalyser(
    {
      input: new FlowStream(flowOf(plan, bus, source, position), position),
      steps: bus.steps,
      length: to - from,
      lead,
      ...busPlace(source, position),
      origin: 0,
      curve: true,
      ...options,
      shape:
        bus.left === 1 && bus.right === 1 && !bus.lines
          ? undefined
          : (at, l, r, n) => {
              if (bus.lines) linesBlock(bus.lines, from + at, l, r, n);
              kernels.gain(l, n, bus.left);
              kernels.gain(r, n, bus.right);
            }
    },
    sampleRate,
    bins
  );
}
