// Levels of other chains for what is on the bench, measured one after the other in the background.
import type { ListenWish } from "$lib/api/listening";
import { measurementFromJson } from "$lib/core/measure/json";
import type { Measurement } from "$lib/core/measure/meter";
import { barePart, wholePart, shapeOf } from "$lib/core/render/clipAnalysis";
import type { Step } from "$lib/core/session/schema";
import { MAX_OWN_SECONDS } from "$lib/playback/chunkStore";
import AnalysisWorker from "$lib/playback/analysis.worker?worker";
import { listen } from "$lib/playback/listen";
import type { FromAnalysis, ToAnalysis } from "$lib/playback/protocol";
import { notices } from "../shared/notices.svelte";
import { withinClip } from "./analysis.svelte";
import type { Selection, Subject } from "./selection.svelte";
import type { Session } from "./session.svelte";

/** Pictures are drawn of none of them. */
const BINS = 1;

type Question = Omit<ToAnalysis, "id"> | (ListenWish & { kind: "bus" | "part" });

export class CandidateLevels {
  /** By what was asked. */
  #known = $state.raw<ReadonlyMap<string, Measurement>>(new Map());
  #wanted: { readonly key: string; readonly question: Question }[] = [];
  #keys = new Map<readonly Step[], string>();
  #worker: InstanceType<typeof AnalysisWorker> | undefined;
  #stop: AbortController | undefined;
  #asked = 0;
  #busy = "";

  constructor(
    private readonly session: Session,
    private readonly selection: Pick<Selection, "range">
  ) {}

  /** The levels of a chain, of those that were wanted last; undefined as long as they are not known. */
  of(steps: readonly Step[]): Measurement | undefined {
    const key = this.#keys.get(steps);
    return key === undefined ? undefined : this.#known.get(key);
  }

  /** Measures these chains on what is on the bench. */
  want(subject: Pick<Subject, "owner" | "clip">, chains: readonly (readonly Step[])[]): void {
    const asked = chains.flatMap((steps) => {
      const question = this.#question(subject, steps);
      return question ? [{ steps, question, key: JSON.stringify([question, this.#ground(question)]) }] : [];
    });
    this.#keys = new Map(asked.map(({ steps, key }) => [steps, key]));
    this.#wanted = asked.filter(({ key }) => !this.#known.has(key));
    if (this.#busy !== "" && !this.#wanted.some(({ key }) => key === this.#busy)) this.#giveUp();
    this.#next();
  }

  /** What a question depends on beside itself: the mix on everything that is saved. */
  #ground(question: Question): number {
    return "kind" in question && question.kind === "bus" ? this.session.revision : 0;
  }

  #question({ owner, clip }: Pick<Subject, "owner" | "clip">, steps: readonly Step[]): Question | undefined {
    const { sampleRate } = this.session.document;
    const recording =
      owner.table === "recordings" ? this.session.shown.get("recordings", owner.id) : undefined;
    const { range } = this.selection;
    if (owner.table === "tracks" || owner.table === "project")
      return {
        kind: "bus",
        owner,
        from: range?.from ?? 0,
        to: range?.to ?? null,
        bins: BINS,
        steps: [...steps]
      };
    const part = clip
      ? { ...barePart(clip), steps }
      : recording && wholePart(owner.id, recording.frames, steps);
    if (!part || part.length === 0) return undefined;
    const shape = clip ? shapeOf(clip) : null;
    const within = clip ? withinClip(clip, range) : null;
    if (part.length > MAX_OWN_SECONDS * sampleRate) return { kind: "part", part, shape, within, bins: BINS };
    return { part, shape, within, pictures: {}, sampleRate, bins: BINS };
  }

  #next(): void {
    const [first] = this.#wanted;
    if (!first || this.#busy !== "") return;
    this.#busy = first.key;
    const { question } = first;
    if ("kind" in question) {
      const stop = (this.#stop = new AbortController());
      listen(this.session.projectId, question, stop.signal, () => undefined)
        .then((last) => {
          if (stop.signal.aborted || last.type !== "analysis") return;
          this.#done(first.key, last.analysis.output && measurementFromJson(last.analysis.output));
        })
        .catch((error: unknown) => {
          if (!stop.signal.aborted) this.#failed(error instanceof Error ? error.message : String(error));
        });
      return;
    }
    if (!this.#worker) {
      this.#worker = new AnalysisWorker();
      this.#worker.onmessage = ({ data }: MessageEvent<FromAnalysis>) => this.#hear(data);
    }
    this.#worker.postMessage({ id: ++this.#asked, ...question } satisfies ToAnalysis);
  }

  #hear(message: FromAnalysis): void {
    if (message.id !== this.#asked) return;
    if (message.type === "result") this.#done(this.#busy, message.output);
    if (message.type === "failed") this.#failed(message.message);
  }

  #done(key: string, levels: Measurement | null): void {
    if (levels) this.#known = new Map(this.#known).set(key, levels);
    this.#wanted = this.#wanted.filter((one) => one.key !== key);
    this.#busy = "";
    this.#next();
  }

  #failed(message: string): void {
    notices.fault(`A candidate could not be measured: ${message}`);
    this.#done(this.#busy, null);
  }

  #giveUp(): void {
    this.#stop?.abort();
    // Answers to older questions are not heard.
    this.#asked++;
    this.#busy = "";
  }

  close(): void {
    this.#stop?.abort();
    this.#worker?.terminate();
  }
}
