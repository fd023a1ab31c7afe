// Levels after every step of the clip on the bench, and its waveforms before and after.
import type { Measurement } from "$lib/core/measure/meter";
import type { StageLevels } from "$lib/core/render/chainAnalysis";
import type { ResolvedClip } from "$lib/core/session/lookup";
import AnalysisWorker from "$lib/playback/analysis.worker?worker";
import type { FromAnalysis, ToAnalysis } from "$lib/playback/protocol";
import { notices } from "../shared/notices.svelte";

const WAIT_MS = 120;
export const STRIP_BINS = 600;

export class Analysis {
  clipId = $state<string | null>(null);
  stages = $state.raw<readonly StageLevels[]>([]);
  output = $state.raw<Measurement | null>(null);
  before = $state.raw<Float32Array | null>(null);
  after = $state.raw<Float32Array | null>(null);
  /** Share that is done of a measurement that is under way; 1 when the levels shown are those of the chain shown. */
  progress = $state(1);
  readonly #worker = new AnalysisWorker();
  #asked = 0;
  #key = "";
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly sampleRate: number) {
    this.#worker.onmessage = ({ data }: MessageEvent<FromAnalysis>) => this.#hear(data);
  }

  /** Measures a clip unless that has been done; the newest wish counts. */
  want(clip: ResolvedClip | undefined): void {
    const key = clip ? JSON.stringify({ ...clip, start: 0, name: "", track: "", render: null }) : "";
    if (key === this.#key) return;
    this.#key = key;
    if (clip?.id !== this.clipId) this.#forget(clip?.id ?? null);
    clearTimeout(this.#timer);
    if (!clip) return;
    this.progress = 0;
    this.#timer = setTimeout(() => {
      const question: ToAnalysis = { id: ++this.#asked, clip, sampleRate: this.sampleRate, bins: STRIP_BINS };
      this.#worker.postMessage(question);
    }, WAIT_MS);
  }

  #forget(clipId: string | null): void {
    this.clipId = clipId;
    this.stages = [];
    this.output = null;
    this.before = null;
    this.after = null;
    this.progress = 1;
  }

  #hear(message: FromAnalysis): void {
    if (message.id !== this.#asked) return;
    if (message.type === "progress") this.progress = Math.min(0.99, message.share);
    if (message.type === "failed") {
      this.progress = 1;
      notices.fault(`The levels could not be measured: ${message.message}`);
    }
    if (message.type === "result") {
      this.stages = message.stages;
      this.output = message.output;
      this.before = message.before;
      this.after = message.after;
      this.progress = 1;
    }
  }

  /** Measurement after a step; undefined while it is off or not measured yet. */
  afterStep(stepId: string): Measurement | undefined {
    return this.stages.find((s) => s.stepId === stepId)?.measurement;
  }

  /** What a step learnt of the clip; undefined while it is off, not measured yet, or has nothing to learn. */
  learntBy(stepId: string): StageLevels["learnt"] {
    return this.stages.find((s) => s.stepId === stepId)?.learnt;
  }

  close(): void {
    clearTimeout(this.#timer);
    this.#worker.terminate();
  }
}
