import { untrack } from "svelte";
import { changesBetween, type Document } from "$lib/core/session/document";
import type { Clip } from "$lib/core/session/schema";
import { TimelineIndex } from "$lib/core/session/timelineIndex";

/** Clips by something that they name: a chain, a recording. */
class Users {
  readonly #clips = new Map<string, Set<string>>();

  change(clipId: string, before: string | null | undefined, after: string | null | undefined): void {
    if (before === after) return;
    if (before) {
      const users = this.#clips.get(before);
      users?.delete(clipId);
      if (users?.size === 0) this.#clips.delete(before);
    }
    if (!after) return;
    const users = this.#clips.get(after);
    if (users) users.add(clipId);
    else this.#clips.set(after, new Set([clipId]));
  }

  of(id: string): Iterable<string> {
    return this.#clips.get(id) ?? [];
  }
}

/**
 * Clips by track and time, as they are shown. Kept up by what changes from one shown document to the next, and told to those alone whose
 * track it concerns.
 */
export class ClipIndex {
  #document: Document;
  #index: TimelineIndex;
  readonly #ofChain = new Users();
  readonly #ofRecording = new Users();
  /** Counts changes by track: who draws a lane depends on its own. */
  readonly #versions = $state<Record<string, number>>({});

  constructor(document: Document) {
    this.#document = document;
    this.#index = new TimelineIndex(document.values("clips"));
    for (const clip of document.values("clips")) this.#use(null, clip);
  }

  #use(before: Clip | null, after: Clip | null): void {
    const id = (after ?? before)?.id ?? "";
    this.#ofChain.change(id, before?.chain, after?.chain);
    this.#ofRecording.change(id, before?.content.recordingId, after?.content.recordingId);
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
      this.#use(before as Clip | null, after as Clip | null);
      for (const clip of [before, after] as (Clip | null)[]) if (clip) tracks.add(clip.track);
    }
    // A recording with a chain of its own: the clips that show it hear that chain as well.
    for (const { table, id } of changes) {
      if (table === "chains") {
        this.#touch(this.#ofChain.of(id), tracks);
        this.#touch(this.#hearing(id), tracks);
      } else if (table === "recordings") this.#touch(this.#ofRecording.of(id), tracks);
    }
    // Whoever calls this in an effect does not depend on what it counts.
    untrack(() => {
      for (const track of tracks) this.#versions[track] = (this.#versions[track] ?? 0) + 1;
    });
  }

  /** Clips of the recordings that have a chain. */
  *#hearing(chainId: string): Iterable<string> {
    for (const recording of this.#document.values("recordings"))
      if (recording.chain === chainId) yield* this.#ofRecording.of(recording.id);
  }

  #touch(clipIds: Iterable<string>, tracks: Set<string>): void {
    for (const id of clipIds) {
      const clip = this.#document.get("clips", id);
      if (clip) tracks.add(clip.track);
    }
  }

  /** In an effect: told when a clip of the track changes, or what it sounds from. */
  watch(track: string): void {
    void this.#versions[track];
  }

  /** Clips of a track that touch [from, to), by when they begin. In an effect: told when a clip of the track changes. */
  overlapping(track: string, from: number, to: number): readonly Clip[] {
    this.watch(track);
    return this.#index.overlapping(track, from, to);
  }

  /** End of a track's last clip. In an effect: told when a clip of the track changes. */
  end(track: string): number {
    this.watch(track);
    return this.#index.end(track);
  }
}
