import { untrack } from "svelte";
import { changesBetween, type Document } from "$lib/core/session/document";
import type { Clip } from "$lib/core/session/schema";
import { TimelineIndex } from "$lib/core/session/timelineIndex";

/** Clips by track and time, as they are shown. Kept up by what changes from one shown document to the next. */
export class ClipIndex {
  #document: Document;
  #index: TimelineIndex;
  /** Counts changes by track: who draws a lane depends on its own. */
  readonly #versions = $state<Record<string, number>>({});

  constructor(document: Document) {
    this.#document = document;
    this.#index = new TimelineIndex(document.values("clips"));
  }

  /** Goes over to a shown document. Costs what differs. */
  show(document: Document): void {
    if (document === this.#document) return;
    const changes = changesBetween(this.#document, document);
    this.#document = document;
    const tracks = new Set<string>();
    for (const { table, before, after } of changes) {
      if (table !== "clips") continue;
      this.#index.change(before as Clip | null, after as Clip | null);
      for (const clip of [before, after] as (Clip | null)[]) if (clip) tracks.add(clip.track);
    }
    // Whoever calls this in an effect does not depend on what it counts.
    untrack(() => {
      for (const track of tracks) this.#versions[track] = (this.#versions[track] ?? 0) + 1;
    });
  }

  /** Clips of a track that touch [from, to), by when they begin. In an effect: told when a clip of the track changes. */
  overlapping(track: string, from: number, to: number): readonly Clip[] {
    void this.#versions[track];
    return this.#index.overlapping(track, from, to);
  }
}
