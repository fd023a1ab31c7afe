// Levels after every step of the chain on the bench, and its sound before and after.
import type { AnalysisJson, ListenWish } from "$lib/api/listening";
import { measurementFromJson, type CurveJson } from "$lib/core/measure/json";
import type { Measurement } from "$lib/core/measure/meter";
import { spectraFromJson } from "$lib/core/measure/spectraJson";
import type { ChainAnalysis, StageLevels, StepTrace } from "$lib/core/render/chainAnalysis";
import type { Pictures } from "$lib/core/render/sheetMemory";
import { adviceOn, type Advice, type AdvisedStep } from "$lib/core/render/advice";
import type { ResolvedClip } from "$lib/core/session/lookup";
import type { Step } from "$lib/core/session/schema";
import { barePart, wholePart, shapeOf, type Shape } from "$lib/core/render/clipAnalysis";
import type { SoundPart } from "$lib/core/render/soundPart";
import { MAX_OWN_SECONDS } from "$lib/playback/chunkStore";
import AnalysisWorker from "$lib/playback/analysis.worker?worker";
import { listen } from "$lib/playback/listen";
import type { FromAnalysis, ToAnalysis } from "$lib/playback/protocol";
import { notices } from "../shared/notices.svelte";
import type { Selection, Subject } from "./selection.svelte";
import type { Session } from "./session.svelte";

const WAIT_MS = 120;
/** All of a track, or of the mix, is measured anew after every edit: not while one still edits. */
const BUS_WAIT_MS = 1000;
/** Columns of the pictures: of what the page hears itself so many that they can be zoomed into. */
const STRIP_BINS = 4096;
const OWN_BINS = 32768;

/** What is to be measured: in the page's own worker what is short, on the server what is long or has to be mixed first. */
type Wish =
  | {
      readonly part: SoundPart;
      readonly shape: Shape;
      readonly within: ToAnalysis["within"];
      readonly pictures: Pictures;
    }
  | (ListenWish & { kind: "bus" });

/** What of a clip lies in a range of the timeline, in its own frames; null when that is all of it, or nothing. */
export function withinClip(
  { start, length }: Pick<ResolvedClip, "start" | "length">,
  range: { readonly from: number; readonly to: number } | null
): ToAnalysis["within"] {
  if (!range) return null;
  const from = Math.max(0, Math.round(range.from - start));
  const to = Math.min(length, Math.round(range.to - start));
  return to > from && to - from < length ? { from, to } : null;
}

export class Analysis {
  #owner = $state("");
  stages = $state.raw<readonly StageLevels[]>([]);
  output = $state.raw<Measurement | null>(null);
  before = $state.raw<ArrayLike<number> | null>(null);
  after = $state.raw<ArrayLike<number> | null>(null);
  /** Whether the levels are those of the selected range alone. */
  partly = $state(false);
  /** Loudness over time of a track or the mix. */
  loudness = $state.raw<CurveJson | null>(null);
  /** What comes to the chosen step and leaves it, over time; spectra before and after the chain. */
  trace = $state.raw<StepTrace | null>(null);
  spectra = $state.raw<ChainAnalysis["spectra"] | null>(null);
  /** Share that is done of a measurement that is under way; 1 when the levels shown are those of the chain shown. */
  progress = $state(1);
  readonly #worker = new AnalysisWorker();
  #asked = 0;
  #key = "";
  #timer: ReturnType<typeof setTimeout> | undefined;
  #far: AbortController | undefined;
  #waiting: (() => void)[] = [];

  constructor(
    private readonly session: Session,
    private readonly selection: Pick<Selection, "range">
  ) {
    this.#worker.onmessage = ({ data }: MessageEvent<FromAnalysis>) => this.#hear(data);
  }

  /** Measures what is on the bench unless that has been done; the newest wish counts. */
  want(subject: Subject, pictures: Pictures = {}): void {
    const wish = this.#wishOf(subject, pictures);
    const owner = `${subject.owner.table} ${subject.owner.id}`;
    // What the mix sounds like depends on everything: it is known by the revision that is saved.
    const key = wish && JSON.stringify([owner, wish, "kind" in wish ? this.session.revision : 0]);
    if (key === this.#key) return;
    if (owner !== this.#owner) this.#forget(owner);
    this.#key = key ?? "";
    this.partly =
      wish !== undefined && ("kind" in wish ? this.selection.range !== null : wish.within !== null);
    clearTimeout(this.#timer);
    this.#far?.abort();
    this.#asked++;
    this.#settle();
    if (!wish) return;
    this.progress = 0;
    this.#timer = setTimeout(() => this.#ask(wish), "kind" in wish ? BUS_WAIT_MS : WAIT_MS);
  }

  #wishOf({ owner, clip, steps }: Subject, pictures: Pictures): Wish | undefined {
    if (clip)
      return {
        part: barePart(clip),
        shape: shapeOf(clip),
        within: withinClip(clip, this.selection.range),
        pictures
      };
    if (owner.table === "recordings") {
      const recording = this.session.shown.get("recordings", owner.id);
      if (!recording || recording.frames === 0) return undefined;
      const part = wholePart(owner.id, recording.frames, steps);
      return { part, shape: null, within: null, pictures };
    }
    // The server mixes what is saved.
    if (this.session.unsaved > 0 || this.session.dragging) return undefined;
    const { range } = this.selection;
    const [from, to] = [range?.from ?? 0, range?.to ?? null];
    return { kind: "bus", owner, from, to, bins: STRIP_BINS, pictures };
  }

  /** Resolves when the levels shown are those of the chain shown, or something else is to be measured. */
  settled(): Promise<void> {
    return this.progress === 1 ? Promise.resolve() : new Promise((resolve) => this.#waiting.push(resolve));
  }

  #settle(): void {
    for (const resolve of this.#waiting.splice(0)) resolve();
  }

  #ask(wish: Wish): void {
    const { sampleRate } = this.session.document;
    if ("kind" in wish) this.#askFar(wish);
    else if (wish.part.length > MAX_OWN_SECONDS * sampleRate)
      this.#askFar({ kind: "part", ...wish, bins: STRIP_BINS });
    else {
      const bins = Math.max(1, Math.min(OWN_BINS, wish.part.length));
      const question: ToAnalysis = { id: this.#asked, ...wish, sampleRate, bins };
      this.#worker.postMessage(question);
    }
  }

  #askFar(wish: ListenWish): void {
    const stop = new AbortController();
    this.#far = stop;
    listen(this.session.projectId, wish, stop.signal, ({ share, soFar }) => {
      if (stop.signal.aborted) return;
      this.progress = Math.min(0.99, share);
      if (soFar) this.#show(soFar);
    })
      .then((last) => {
        if (stop.signal.aborted || last.type !== "analysis") return;
        this.#show(last.analysis);
        this.progress = 1;
        this.#settle();
      })
      .catch((error: unknown) => {
        if (!stop.signal.aborted) this.#fail(error instanceof Error ? error.message : String(error));
      });
  }

  #show({ stages, output, before, after, loudness, trace, spectra }: AnalysisJson): void {
    this.stages = stages.map(({ changed, ...stage }) => ({
      ...stage,
      ...(changed === undefined ? {} : { changed }),
      measurement: stage.measurement && measurementFromJson(stage.measurement)
    }));
    this.output = output && measurementFromJson(output);
    this.before = before;
    this.after = after;
    this.loudness = loudness ?? null;
    if (trace)
      this.trace = {
        ...trace,
        inPeaks: Float32Array.from(trace.inPeaks),
        outPeaks: Float32Array.from(trace.outPeaks),
        inSpectra: spectraFromJson(trace.inSpectra),
        outSpectra: spectraFromJson(trace.outSpectra)
      };
    if (spectra)
      this.spectra = { before: spectraFromJson(spectra.before), after: spectraFromJson(spectra.after) };
  }

  #fail(message: string): void {
    this.progress = 1;
    this.#settle();
    notices.fault(`The levels could not be measured: ${message}`);
  }

  #forget(owner: string): void {
    this.#owner = owner;
    this.stages = [];
    this.output = null;
    this.before = null;
    this.after = null;
    this.loudness = null;
    this.trace = null;
    this.spectra = null;
    this.progress = 1;
  }

  #hear(message: FromAnalysis): void {
    if (message.id !== this.#asked) return;
    if (message.type === "progress") this.progress = Math.min(0.99, message.share);
    if (message.type === "failed") this.#fail(message.message);
    if (message.type === "result") {
      this.stages = message.stages;
      this.output = message.output;
      this.before = message.before;
      this.after = message.after;
      this.trace = message.trace ?? null;
      this.spectra = message.spectra ?? null;
      this.progress = 1;
      this.#settle();
    }
  }

  /** Measurement before the first step; undefined while it is not measured yet. */
  get start(): Measurement | undefined {
    return this.stages.find((s) => s.stepId === null)?.measurement ?? undefined;
  }

  /** Measurement after a step; undefined while it is off or not measured yet. */
  afterStep(stepId: string): Measurement | undefined {
    return this.stages.find((s) => s.stepId === stepId)?.measurement ?? undefined;
  }

  /** What looks like a mistake in the chain, in the order of the graver. Nothing while it is being measured. */
  advice(steps: readonly Step[]): Advice[] {
    if (this.progress < 1) return [];
    let before = this.start;
    const known = steps.flatMap((step): AdvisedStep[] => {
      const stage = this.stages.find((s) => s.stepId === step.id);
      const after = stage?.measurement;
      if (!step.on || !before || !after) return [];
      const { id, effect, params } = step;
      const advised = { id, effect, params, before, after, changed: stage.changed };
      before = after;
      return [advised];
    });
    return adviceOn(known);
  }

  /** Share of one core that the chain takes while it plays live; undefined while it is not measured. */
  get cost(): number | undefined {
    const costs = this.stages.flatMap(({ cost }) => cost ?? []);
    return costs.length > 0 ? costs.reduce((sum, cost) => sum + cost, 0) : undefined;
  }

  /** The trace of a step; undefined while there is none. */
  traceOf(stepId: string): StepTrace | undefined {
    return this.trace?.stepId === stepId ? this.trace : undefined;
  }

  /** What a step learnt; undefined while it is off, not measured yet, or has nothing to learn. */
  learntBy(stepId: string): StageLevels["learnt"] {
    return this.stages.find((s) => s.stepId === stepId)?.learnt;
  }

  close(): void {
    clearTimeout(this.#timer);
    this.#far?.abort();
    this.#worker.terminate();
  }
}
