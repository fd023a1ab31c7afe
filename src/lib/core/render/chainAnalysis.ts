// Levels after every step of a chain, and what it looks like before and after: what the sheet shows. For every owner of a chain.
import { BLOCK, StereoBlock } from "../audio/block";
import type { FrameRange, SoundStream } from "../audio/soundStream";
import { Chain, type StepSpec } from "../effects/chain";
import type { Learnt, Samples } from "../effects/description";
import { kernels } from "../kernels/instance";
import type { LoudnessCurve } from "../measure/loudnessCurve";
import { Fingerprint, FingerprintColumns } from "../measure/fingerprint";
import { SpectrumColumns, type Spectra } from "../measure/spectrumColumns";
import { Meter, type Measurement } from "../measure/meter";

/** Levels at one point of the chain. */
export interface StageLevels {
  /** Id of the step after which it was measured; null: before the first. */
  readonly stepId: string | null;
  /** null: nothing has come here yet. */
  readonly measurement: Measurement | null;
  /** What the step learnt; only for steps that do. */
  readonly learnt?: Learnt["values"] | undefined;
  /** Whether the step has changed anything of what came to it. */
  readonly changed?: boolean;
  /** Share of one core that the step takes while it plays, measured; only where there is a clock. */
  readonly cost?: number | undefined;
}

/** What comes to a step and what leaves it, over time. */
export interface StepTrace {
  readonly stepId: string;
  /** Largest magnitude in each of equal parts. */
  readonly inPeaks: Float32Array;
  readonly outPeaks: Float32Array;
  readonly inSpectra: Spectra;
  readonly outSpectra: Spectra;
  /** The parts in which the step has changed anything. */
  readonly changed: readonly number[];
}

export interface ChainAnalysis {
  /** Before the first step, then after every step that is heard: those that were to be measured. */
  readonly stages: readonly StageLevels[];
  /** As it goes on from there: chain, gain and, for clips, fades. null: nothing has come there yet. */
  readonly output: Measurement | null;
  /** Largest magnitude in each of `bins` equal parts, before and after the chain. */
  readonly before: Float32Array;
  readonly after: Float32Array;
  /** Loudness over time of what goes out, of the part that was heard; only where it was asked for. */
  readonly loudness?: LoudnessCurve;
  /** Of the step that was asked for, when it is heard and all is done. */
  readonly trace?: StepTrace;
  /** Spectra over time before and after the chain, where they were asked for and all is done. */
  readonly spectra?: { readonly before: Spectra; readonly after: Spectra };
}

/** Hears a stretch of sound: addresses of two blocks, and which frame of the stretch comes first. */
type Hearer = (l: number, r: number, n: number, at: number) => void;

/** A place in the chain: lets the delay before it pass, then hears exactly the sound's length. */
class Tap {
  #skip: number;
  #left: number;

  constructor(
    delay: number,
    private readonly length: number,
    private readonly hearers: readonly Hearer[]
  ) {
    this.#skip = delay;
    this.#left = length;
  }

  get heard(): number {
    return this.length - this.#left;
  }

  push(l: number, r: number, n: number): void {
    const skip = Math.min(n, this.#skip);
    this.#skip -= skip;
    const m = Math.min(n - skip, this.#left);
    if (m === 0) return;
    const at = this.heard;
    this.#left -= m;
    for (const hear of this.hearers) hear(l + skip * 4, r + skip * 4, m, at);
  }
}

/** Notes the largest magnitudes of a sound of some length in equal parts. */
function drawer(peaks: Float32Array, length: number): Hearer {
  return (l, r, n, at) => {
    for (let i = 0; i < n;) {
      const bin = Math.min(peaks.length - 1, Math.floor(((at + i) * peaks.length) / length));
      const end = Math.ceil(((bin + 1) * length) / peaks.length);
      const m = Math.max(1, Math.min(n - i, end - (at + i)));
      peaks[bin] = Math.max(peaks[bin], kernels.peak(l + i * 4, m), kernels.peak(r + i * 4, m));
      i += m;
    }
  };
}

/** A step with its identity, as sheets show it. */
export type SheetStep = StepSpec & { readonly id: string };

/** What is analysed: a chain and the sound that goes into it. */
export interface Analysed {
  /** Sound before the first step, from `position` on. Released with the analysis. */
  readonly input: SoundStream;
  readonly steps: readonly SheetStep[];
  /** Frames that are analysed, and frames of `input` before them that only run the chain in. */
  readonly length: number;
  readonly lead?: number;
  /** Frames of the owner, 0 without an end; the frame of it with which `input` begins; where its spans count from. */
  readonly frames: number;
  readonly position: number;
  readonly origin: number;
  readonly learnt: readonly (Learnt | undefined)[];
  readonly sound: (id: string) => Samples | undefined;
  /** Gain and fades behind the chain, if there are any. position: frames after the first that is analysed; negative, or behind the last, is nothing. */
  readonly shape?: ((position: number, l: number, r: number, n: number) => void) | undefined;
  /** Whether loudness over time is asked for: as many columns as there are bins. */
  readonly curve?: boolean;
  /** Id of the step of which a trace is wanted. */
  readonly traced?: string | undefined;
  /** Whether spectra over time are wanted, before and after the chain. */
  readonly spectra?: boolean | undefined;
  /** Milliseconds, to measure what steps cost. */
  readonly clock?: (() => number) | undefined;
  /** The frames of the stretch whose levels are measured; all when left out. */
  readonly within?: { readonly from: number; readonly to: number } | undefined;
  /** Whether true peak of what goes out is measured by annex 2's interpolator too. */
  readonly annex2?: boolean | undefined;
  /** Whether the place behind a step (null: before the first) is measured; all are when left out. */
  readonly measures?: (stepId: string | null) => boolean;
  /** Takes the sound behind a step, with the delay so far taken out. */
  readonly keep?: { readonly after: string; readonly take: (l: number, r: number, n: number) => void };
}

/** Parts of a trace over time, and bands of its spectra. */
const TRACE_COLUMNS = 600;
const TRACE_BANDS = 64;
/** Columns and bands of the spectra before and after. */
const SPECTRA_COLUMNS = 1200;
const SPECTRA_BANDS = 96;

/** Peaks and spectra of one place of the chain. */
class Drawn {
  readonly peaks = new Float32Array(TRACE_COLUMNS);
  readonly columns: SpectrumColumns;
  readonly prints: FingerprintColumns;
  readonly hearers: readonly Hearer[];

  constructor(sampleRate: number, length: number) {
    this.columns = new SpectrumColumns(sampleRate, length, TRACE_COLUMNS, TRACE_BANDS);
    this.prints = new FingerprintColumns(length, TRACE_COLUMNS);
    this.hearers = [
      drawer(this.peaks, length),
      (l, r, n) => this.columns.push(l, r, n),
      (l, r, n, at) => this.prints.push(l, r, n, at)
    ];
  }

  release(): void {
    this.columns.release();
    this.prints.release();
  }
}

/** Lets through what lies within some frames of the stretch. */
function only(within: Analysed["within"], hear: Hearer): Hearer {
  if (!within) return hear;
  const { from, to } = within;
  return (l, r, n, at) => {
    const skip = Math.max(0, Math.min(n, from - at));
    const m = Math.min(n, to - at) - skip;
    if (m > 0) hear(l + skip * 4, r + skip * 4, m, at + skip);
  };
}

interface Stage {
  readonly stepId: string | null;
  readonly processor: Chain | null;
  readonly meter: Meter | undefined;
  readonly print: Fingerprint;
  /** Milliseconds that its processor has taken. */
  spent: number;
  readonly tap: Tap;
  readonly learnt?: Learnt["values"] | undefined;
}

/** Runs a whole chain, block by block, with a meter after every step. */
export class ChainAnalyser {
  readonly #block = new StereoBlock(BLOCK);
  readonly #stages: Stage[] = [];
  /** undefined: what goes out is what the last step makes. */
  readonly #outMeter: Meter | undefined;
  readonly #output: Tap;
  readonly #before: Float32Array;
  readonly #after: Float32Array;
  readonly #total: number;
  readonly #delay: number;
  /** What comes to the traced step, and what leaves it. */
  readonly #traced: readonly [Drawn, Drawn] | undefined;
  readonly #spectra: readonly [SpectrumColumns, SpectrumColumns] | undefined;
  #input = 0;

  constructor(
    private readonly what: Analysed,
    private readonly sampleRate: number,
    private readonly bins: number
  ) {
    const { length, frames, position, origin, learnt, sound, lead = 0 } = what;
    this.#before = new Float32Array(bins);
    this.#after = new Float32Array(bins);
    if (what.spectra) {
      const columns = () => new SpectrumColumns(sampleRate, length, SPECTRA_COLUMNS, SPECTRA_BANDS);
      this.#spectra = [columns(), columns()];
    }
    const heard = what.steps.filter((step) => step.on);
    const traced = heard.findIndex(({ id }) => id === what.traced);
    if (traced >= 0) this.#traced = [new Drawn(sampleRate, length), new Drawn(sampleRate, length)];
    const [into, outOf] = this.#traced ?? [];
    const spectraOf = (side: 0 | 1): Hearer[] => {
      const columns = this.#spectra?.[side];
      return columns ? [(l, r, n) => columns.push(l, r, n)] : [];
    };
    this.#stages.push(
      this.#stage(null, null, lead, [
        drawer(this.#before, length),
        ...spectraOf(0),
        ...(traced === 0 ? (into?.hearers ?? []) : [])
      ])
    );
    let latency = 0;
    what.steps.forEach((step, i) => {
      if (!step.on) return;
      const index = heard.indexOf(step);
      const hearers = [
        ...(index === traced ? (outOf?.hearers ?? []) : []),
        ...(index === traced - 1 ? (into?.hearers ?? []) : [])
      ];
      const place = { frames, position: position - latency, origin, learnt: [learnt[i]], sound };
      const processor = new Chain([step], sampleRate, place);
      latency += processor.timing.latency;
      this.#stages.push(this.#stage(step.id, processor, lead + latency, hearers, learnt[i]?.values));
    });
    this.#delay = lead + latency;
    const last = this.#stages[this.#stages.length - 1];
    const { shape, annex2 = false } = what;
    const meter = shape || annex2 || !last.meter ? new Meter(sampleRate, { annex2 }) : undefined;
    this.#outMeter = meter;
    this.#output = new Tap(this.#delay, length, [
      ...(meter ? [only(what.within, (l, r, n) => meter.push(l, r, n))] : []),
      drawer(this.#after, length),
      ...spectraOf(1)
    ]);
    this.#total = length + this.#delay;
  }

  #stage(
    stepId: string | null,
    processor: Chain | null,
    delay: number,
    hearers: readonly Hearer[],
    learnt?: Learnt["values"]
  ): Stage {
    const { measures, keep, length, within } = this.what;
    const meter = (measures?.(stepId) ?? true) ? new Meter(this.sampleRate) : undefined;
    const all = [...hearers];
    if (meter) all.push(only(within, (l, r, n) => meter.push(l, r, n)));
    const print = new Fingerprint();
    all.push(only(within, (l, r, n, at) => print.push(l, r, n, at)));
    if (keep && keep.after === stepId) all.push((l, r, n) => keep.take(l, r, n));
    return { stepId, processor, meter, print, spent: 0, tap: new Tap(delay, length, all), learnt };
  }

  /** Frames of recordings that the next `advance(frames)` reads. */
  needed(frames: number): readonly FrameRange[] {
    return this.what.input.needed(Math.ceil(frames / BLOCK) * BLOCK);
  }

  /** Share that is done, 0 to 1. */
  get progress(): number {
    return Math.min(1, this.#input / this.#total);
  }

  /** Works through about `frames` more. Returns true when all is done. */
  advance(frames: number): boolean {
    const end = Math.min(this.#total, this.#input + frames);
    while (this.#input < end) this.#one();
    return this.#input >= this.#total;
  }

  #one(): void {
    const [l, r] = [this.#block.left.ptr, this.#block.right.ptr];
    this.what.input.read(l, r, BLOCK);
    const { clock } = this.what;
    for (const stage of this.#stages) {
      const { processor, tap } = stage;
      const begin = clock && processor ? clock() : 0;
      processor?.process(l, r, BLOCK);
      if (clock && processor) stage.spent += clock() - begin;
      tap.push(l, r, BLOCK);
    }
    this.what.shape?.(this.#input - this.#delay, l, r, BLOCK);
    this.#output.push(l, r, BLOCK);
    this.#input += BLOCK;
  }

  /** Milliseconds of work as a share of the time that the sound takes. */
  #cost(spent: number): number {
    return spent / (Math.max(1, this.#input) / this.sampleRate) / 1000;
  }

  /** Columns of the part that was heard. */
  #columns(): number {
    return Math.round((this.bins * this.#output.heard) / Math.max(1, this.what.length));
  }

  #outgoing(): Meter {
    const meter = this.#outMeter ?? this.#stages[this.#stages.length - 1].meter;
    if (!meter) throw new Error("What goes out is not measured.");
    return meter;
  }

  /** What has been measured so far. */
  result(): ChainAnalysis {
    return {
      stages: this.#stages.flatMap(({ stepId, meter, tap, learnt, print, processor, spent }, i) => {
        if (!meter) return [];
        const before = this.#stages[i - 1];
        return [
          {
            stepId,
            measurement: tap.heard > 0 ? meter.result() : null,
            learnt,
            ...(this.what.clock && processor ? { cost: this.#cost(spent) } : {}),
            // Until all is heard nothing can be said: what comes may be changed.
            ...(before && this.progress === 1 ? { changed: print.differs(before.print) } : {})
          }
        ];
      }),
      output: this.#output.heard > 0 ? this.#outgoing().result() : null,
      before: this.#before,
      after: this.#after,
      ...(this.what.curve ? { loudness: this.#outgoing().curve(this.#columns()) } : {}),
      ...(this.progress === 1 ? this.#pictures() : {})
    };
  }

  #pictures(): Pick<ChainAnalysis, "trace" | "spectra"> {
    const [into, outOf] = this.#traced ?? [];
    const [before, after] = this.#spectra ?? [];
    const { traced } = this.what;
    return {
      ...(into && outOf && traced !== undefined
        ? {
            trace: {
              stepId: traced,
              inPeaks: into.peaks,
              outPeaks: outOf.peaks,
              inSpectra: into.columns.result(),
              outSpectra: outOf.columns.result(),
              changed: outOf.prints.differing(into.prints)
            }
          }
        : {}),
      ...(before && after ? { spectra: { before: before.result(), after: after.result() } } : {})
    };
  }

  release(): void {
    this.#block.release();
    for (const { processor, meter, print } of this.#stages) {
      processor?.release();
      meter?.release();
      print.release();
    }
    for (const one of [...(this.#traced ?? []), ...(this.#spectra ?? [])]) one.release();
    this.#outMeter?.release();
    this.what.input.release();
  }
}
