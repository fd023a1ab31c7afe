// Two selected clips of one recording that sound at the same time: what mono does to them, one panned to each side.
import type { MonoJson } from "$lib/api/listening";
import { overlapOf } from "$lib/core/render/sideBySide";
import type { Clip } from "$lib/core/session/schema";
import { listen } from "$lib/playback/listen";
import { notices } from "../shared/notices.svelte";
import type { Selection } from "./selection.svelte";
import type { Session } from "./session.svelte";

export interface Pair {
  readonly first: Clip;
  readonly second: Clip;
}

export class Together {
  /** null: not known, or nothing is together. */
  mono = $state.raw<MonoJson | null>(null);
  #asked = "";
  #stop: AbortController | undefined;

  constructor(
    private readonly session: Session,
    private readonly selection: Pick<Selection, "clipIds">
  ) {}

  /** The two selected clips, when they show the same stretch of one recording on tracks of their own at the same time. */
  get pair(): Pair | undefined {
    const [a, b, ...more] = this.selection.clipIds;
    if (a === undefined || b === undefined || more.length > 0) return undefined;
    const [first, second] = [this.session.shown.get("clips", a), this.session.shown.get("clips", b)];
    if (!first || !second || first.track === second.track || !overlapOf(first, second)) return undefined;
    return first.content.recordingId === second.content.recordingId ? { first, second } : undefined;
  }

  /** Call in an effect: asks once for each state of the two. */
  want(): void {
    const { pair } = this;
    const key = pair ? `${pair.first.id} ${pair.second.id} ${this.session.revision}` : "";
    if (key === this.#asked) return;
    this.forget();
    this.#asked = key;
    if (!pair) return;
    const stop = (this.#stop = new AbortController());
    this.#ask(pair, stop).catch((error: unknown) => {
      if (!stop.signal.aborted) notices.fault(error);
    });
  }

  async #ask({ first, second }: Pair, { signal }: AbortController): Promise<void> {
    await this.session.settled();
    const wish = { kind: "together" as const, clips: [first.id, second.id] as [string, string] };
    const last = await listen(this.session.projectId, wish, signal, () => undefined);
    if (!signal.aborted && last.type === "mono") this.mono = last.mono;
  }

  forget(): void {
    this.#stop?.abort();
    this.mono = null;
    this.#asked = "";
  }
}
