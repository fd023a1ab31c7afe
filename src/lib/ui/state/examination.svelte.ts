// What is wrong with the sound on the bench, and what becomes of it in mono: heard on the server when it is asked for.
import type { ListenWish, MonoJson, SoundWish } from "$lib/api/listening";
import type { Finding } from "$lib/core/measure/examine/finding";
import { barePart, wholePart } from "$lib/core/render/clipAnalysis";
import { listen } from "$lib/playback/listen";
import { notices } from "../shared/notices.svelte";
import { withinClip } from "./analysis.svelte";
import type { Selection, Subject } from "./selection.svelte";
import type { Session } from "./session.svelte";

export class Examination {
  /** null: not known yet. */
  findings = $state.raw<readonly Finding[] | null>(null);
  mono = $state.raw<MonoJson | null>(null);
  /** Share that is done; null: nothing is under way. */
  progress = $state<number | null>(null);
  /** Frame of the timeline at which what was examined begins; null: it has no place there. */
  begin = $state<number | null>(null);
  /** Whether it was the selected range of it alone. */
  partly = $state(false);
  #stop: AbortController | undefined;

  constructor(
    private readonly session: Session,
    private readonly selection: Pick<Selection, "range">
  ) {}

  /** Examines what is on the bench: the selected range of it, or all. */
  async run(subject: Subject): Promise<void> {
    this.forget();
    const stop = (this.#stop = new AbortController());
    this.progress = 0;
    try {
      // Tracks and the mix are heard as they are saved.
      await this.session.settled();
      const found = this.#soundOf(subject);
      if (!found || stop.signal.aborted) return;
      this.begin = found.begin;
      this.partly = found.partly;
      const first = await this.#ask({ kind: "examine", sound: found.sound }, stop.signal, 0);
      if (first?.type === "findings") this.findings = first.findings;
      const second = await this.#ask({ kind: "mono", sound: found.sound }, stop.signal, 0.5);
      if (second?.type === "mono") this.mono = second.mono;
    } catch (error) {
      if (!stop.signal.aborted) notices.fault(error);
    } finally {
      if (this.#stop === stop) this.progress = null;
    }
  }

  async #ask(wish: ListenWish, signal: AbortSignal, from: number) {
    const last = await listen(this.session.projectId, wish, signal, ({ share }) => {
      if (!signal.aborted) this.progress = from + share / 2;
    });
    return signal.aborted ? undefined : last;
  }

  #soundOf({
    owner,
    clip,
    steps
  }: Subject): { sound: SoundWish; begin: number | null; partly: boolean } | undefined {
    const { range } = this.selection;
    if (clip) {
      const within = withinClip(clip, range);
      const begin = clip.start + (within?.from ?? 0);
      return { sound: { part: barePart(clip), within }, begin, partly: within !== null };
    }
    if (owner.table === "recordings") {
      const frames = this.session.shown.get("recordings", owner.id)?.frames ?? 0;
      if (frames === 0) return undefined;
      return { sound: { part: wholePart(owner.id, frames, steps) }, begin: null, partly: false };
    }
    const from = Math.round(range?.from ?? 0);
    const to = range ? Math.round(range.to) : null;
    return { sound: { owner, from, to }, begin: from, partly: range !== null };
  }

  /** Gives up what is under way, and what is known: another sound is on the bench. */
  forget(): void {
    this.#stop?.abort();
    this.findings = null;
    this.mono = null;
    this.progress = null;
  }
}
