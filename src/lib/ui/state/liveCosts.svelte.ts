// What the clips of a project cost while they play, and which of them are rendered: measured when it is asked for.
import { busiest, dearest, liveClips, type ClipCost, type LiveClip } from "$lib/core/render/liveCost";
import { Plan } from "$lib/core/render/graph";
import type { Document } from "$lib/core/session/document";
import CostWorker from "$lib/playback/cost.worker?worker";
import type { FromCost, ToCost } from "$lib/playback/cost.worker";

/** Nowhere more than this share of a core is what is aimed at. */
export const EASY_SHARE = 0.25;

export interface CostRow extends ClipCost {
  readonly name: string;
  readonly track: string;
  readonly steps: number;
}

/** Key of what runs all the time: chains of tracks and of the mix. */
const BUS = "bus ";

export class LiveCosts {
  readonly clips: readonly LiveClip[];
  readonly #asked: number;
  #shares = $state.raw<ReadonlyMap<string, number>>(new Map());
  /** Why steps could not be measured, one sentence each. */
  faults = $state.raw<readonly string[]>([]);
  #by = $state.raw<ReadonlySet<string> | null>(null);
  readonly #worker = new CostWorker();

  constructor(private readonly document: Document) {
    const plan = new Plan(document);
    this.clips = liveClips(plan);
    const parts = new Map(this.clips.map(({ recipe, part }) => [recipe, part]));
    for (const { id, steps } of [...plan.tracks, plan.mix])
      if (steps.length > 0)
        parts.set(`${BUS}${id}`, { recordingId: "", offset: 0, length: 1, origin: 0, steps });
    this.#asked = parts.size;
    this.#worker.onmessage = ({ data }: MessageEvent<FromCost>) => {
      if ("error" in data) this.faults = [...new Set([...this.faults, data.error])];
      this.#shares = new Map(this.#shares).set(data.key, "error" in data ? 0 : data.share);
    };
    const question: ToCost = {
      sampleRate: document.sampleRate,
      parts: [...parts].map(([key, part]) => ({ key, part }))
    };
    this.#worker.postMessage(question);
  }

  /** Share of the measuring that is done, 0 to 1. */
  get progress(): number {
    return this.#asked === 0 ? 1 : this.#shares.size / this.#asked;
  }

  /** The clips, the dearest first. */
  readonly rows: readonly CostRow[] = $derived.by(() =>
    this.clips
      .map(({ clip, recipe, part }) => ({
        id: clip.id,
        name: clip.name,
        track: this.document.get("tracks", clip.track)?.name ?? "",
        steps: part.steps.filter((step) => step.on).length,
        from: clip.start,
        to: clip.start + clip.length,
        share: this.#shares.get(recipe) ?? 0
      }))
      .sort((a, b) => b.share - a.share || a.from - b.from)
  );

  /** Share that the chains of tracks and of the mix take. */
  get buses(): number {
    return [...this.#shares].reduce((sum, [key, share]) => sum + (key.startsWith(BUS) ? share : 0), 0);
  }

  // Every row of the list asks for these.
  readonly #chosen = $derived.by(
    (): ReadonlySet<string> =>
      this.#by ?? (this.progress < 1 ? new Set() : dearest(this.rows, EASY_SHARE - this.buses))
  );
  readonly #before = $derived.by(() => busiest(this.rows));
  readonly #after = $derived.by(() => busiest(this.rows.filter(({ id }) => !this.#chosen.has(id))));

  /** The clips that are to be rendered: those that were chosen, else as many of the dearest as make it easy. */
  get chosen(): ReadonlySet<string> {
    return this.#chosen;
  }

  set chosen(ids: ReadonlySet<string>) {
    this.#by = ids;
  }

  /** Where most is taken at once, now and when the chosen ones are rendered. */
  get before(): { readonly share: number; readonly at: number } {
    return this.#before;
  }

  get after(): { readonly share: number; readonly at: number } {
    return this.#after;
  }

  close(): void {
    this.#worker.terminate();
  }
}
