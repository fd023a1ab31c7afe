import { findClip, tracksInOrder, type ResolvedClip } from "$lib/core/session/lookup";
import { MIX, ownerName, stepsOfOwner, type Owner } from "$lib/core/session/owners";
import type { Clip, Step, Track } from "$lib/core/session/schema";
import {
  NOTHING_SELECTED,
  rangeOf,
  targets,
  tracksOf,
  type Range,
  type Selected,
  type Target
} from "$lib/core/session/selection";
import { rowsTogether, type Row } from "$lib/core/session/together";
import type { Session } from "./session.svelte";

/** What lies on the bench: whose chain is treated. */
export interface Subject {
  readonly owner: Owner;
  /** All that what is done to the chain is done to: with several selected clips each of them, the one on the bench first. */
  readonly owners: readonly [Owner, ...Owner[]];
  readonly name: string;
  readonly steps: readonly Step[];
  /** When it is a clip. */
  readonly clip: ResolvedClip | undefined;
}

/** How a clip or a step is chosen: alone, besides others or no longer (Ctrl), with all that lie between (Shift). */
export type Choice = "alone" | "toggle" | "between";

/** What the keys that are held make of a press. */
export function choiceOf(keys: {
  readonly shiftKey?: boolean;
  readonly ctrlKey?: boolean;
  readonly metaKey?: boolean;
}): Choice {
  if (keys.ctrlKey || keys.metaKey) return "toggle";
  return keys.shiftKey ? "between" : "alone";
}

/** What is selected: clips and a stretch of time, or a track or a recording; a step of it. With nothing selected the mix is on the bench. */
export class Selection {
  selected = $state.raw<Selected>(NOTHING_SELECTED);
  readonly ids: ReadonlySet<string> = $derived(new Set(this.selected.clips));
  #step = $state.raw<{ readonly id: string | null; readonly besides: readonly string[] }>({
    id: null,
    besides: []
  });
  #other = $state.raw<Owner | null>(null);
  /** The clip that was chosen last on its own: from there Shift reaches. */
  #anchor: string | undefined;

  constructor(private readonly session: Pick<Session, "shown">) {}

  get clipIds(): readonly string[] {
    return this.selected.clips;
  }

  /** The step whose settings are shown. Set, it is the only chosen one. */
  get stepId(): string | null {
    return this.#step.id;
  }

  set stepId(id: string | null) {
    this.#step = { id, besides: [] };
  }

  /** The selected stretch of time, in frames on the timeline. */
  get range(): Range | null {
    return rangeOf(this.session.shown, this.selected);
  }

  /** Without tracks: on those of the selected clips, or on all. */
  set range(
    range: { readonly from: number; readonly to: number; readonly tracks?: readonly string[] | null } | null
  ) {
    this.selected = {
      ...this.selected,
      stretch: range && { from: range.from, to: range.to, tracks: range.tracks ?? null }
    };
  }

  /** Id of the section whose time is selected. */
  get section(): string | null {
    const { stretch } = this.selected;
    return stretch && "section" in stretch ? stretch.section : null;
  }

  chooseSection(id: string): void {
    this.selected = { ...this.selected, stretch: { section: id } };
  }

  /** What actions work on. */
  get targets(): Target[] {
    return targets(this.session.shown, this.selected);
  }

  /** Tracks, from the top, that actions work on. */
  get tracks(): string[] {
    return tracksOf(this.session.shown, this.selected);
  }

  /** The clip on the bench: the first selected one that is still there. */
  get found(): { clip: ResolvedClip; track: Track } | undefined {
    for (const id of this.clipIds) {
      const found = findClip(this.session.shown, id);
      if (found) return found;
    }
    return undefined;
  }

  get clip(): ResolvedClip | undefined {
    return this.found?.clip;
  }

  /** Whose chain is on the bench. */
  readonly subject: Subject = $derived.by(() => {
    const { clip } = this;
    const { shown } = this.session;
    if (clip) {
      const owner = { table: "clips" as const, id: clip.id };
      const others = this.clipIds
        .filter((id) => id !== clip.id && shown.get("clips", id))
        .map((id) => ({ table: "clips" as const, id }));
      return { owner, owners: [owner, ...others], name: clip.name, steps: clip.steps, clip };
    }
    const other = this.#other && shown.get(this.#other.table, this.#other.id) ? this.#other : MIX;
    return {
      owner: other,
      owners: [other],
      name: ownerName(shown, other),
      steps: stepsOfOwner(shown, other),
      clip: undefined
    };
  });

  /** The steps on the bench, those of all selected clips together. */
  readonly rows: readonly Row[] = $derived.by(() => rowsTogether(this.session.shown, this.subject.owners));

  /** The chosen row: the first when the chosen step is none of them. */
  readonly row: Row | undefined = $derived.by(
    () => this.rows.find((row) => row.places.some(({ step }) => step.id === this.stepId)) ?? this.rows[0]
  );

  /** All rows that are chosen, in the chain's order: what is done to several is done to these. */
  readonly chosenRows: readonly Row[] = $derived.by(() => {
    const { besides } = this.#step;
    const { row, rows } = this;
    if (besides.length === 0) return row ? [row] : [];
    return rows.filter((one) => one === row || one.places.some(({ step }) => besides.includes(step.id)));
  });

  /** Chooses a row alone, besides others or no longer, or with all that lie between it and the one that is shown. */
  chooseStep(row: Row, choice: Choice): void {
    const { rows, chosenRows, row: shown } = this;
    const id = row.step.id;
    if (choice === "alone" || !shown) {
      this.stepId = id;
      return;
    }
    const [a, b] = [rows.indexOf(shown), rows.indexOf(row)];
    const some = choice === "between" ? rows.slice(Math.min(a, b), Math.max(a, b) + 1) : chosenRows;
    const ids = some.map((one) => one.step.id);
    const now =
      choice === "between" ? ids : ids.includes(id) ? ids.filter((one) => one !== id) : [...ids, id];
    const main = now.includes(shown.step.id) ? shown.step.id : now[0];
    if (main !== undefined) this.#step = { id: main, besides: now };
  }

  /** What what is on the bench is called: of several clips, their number. */
  get title(): string {
    const { owners, name } = this.subject;
    return owners.length === 1 ? name : `${owners.length} clips`;
  }

  has(clipId: string): boolean {
    return this.ids.has(clipId);
  }

  /** Selects a clip, with those that are grouped with it. */
  choose(clipId: string, choice: Choice = "alone"): void {
    this.#other = null;
    const own = this.#grouped([clipId]);
    if (choice === "alone") this.#put([clipId, ...own.filter((id) => id !== clipId)]);
    else if (choice === "toggle")
      this.#put(
        this.has(clipId)
          ? this.clipIds.filter((id) => !own.includes(id))
          : [...new Set([...this.clipIds, ...own])]
      );
    else this.#put(this.#grouped([...new Set([...this.clipIds, ...this.#between(clipId), ...own])]));
    if (choice !== "between") this.#anchor = clipId;
    this.#keepStep();
  }

  /** Brings one of the selected clips to the bench. */
  bringFirst(clipId: string): void {
    if (!this.has(clipId)) return;
    const others = this.clipIds.filter((id) => id !== clipId);
    this.selected = { ...this.selected, clips: [clipId, ...others] };
    this.#keepStep();
  }

  #put(clips: readonly string[]): void {
    if (clips.length === this.clipIds.length && clips.every((id, i) => id === this.clipIds[i])) return;
    this.selected = { ...this.selected, clips };
  }

  /** These clips and all that are in a group with one of them. */
  #grouped(clipIds: readonly string[]): string[] {
    const { shown } = this.session;
    const groups = new Set(clipIds.flatMap((id) => shown.get("clips", id)?.group ?? []));
    if (groups.size === 0) return [...clipIds];
    const others = [...shown.values("clips")].filter((clip) => clip.group && groups.has(clip.group));
    return [...new Set([...clipIds, ...others.map((clip) => clip.id)])];
  }

  /** Clips from the last one that was chosen to this one: in time, and on the tracks between. */
  #between(clipId: string): string[] {
    const { shown } = this.session;
    const ends = [this.#anchor ?? this.clipIds[0] ?? clipId, clipId].flatMap(
      (id) => shown.get("clips", id) ?? []
    );
    const order = tracksInOrder(shown).map((track) => track.id);
    const rows = ends.map((clip) => order.indexOf(clip.track));
    const from = Math.min(...ends.map((clip) => clip.start));
    const to = Math.max(...ends.map((clip) => clip.start + clip.length));
    const tracks = new Set(order.slice(Math.min(...rows), Math.max(...rows) + 1));
    const within = (clip: Clip) =>
      tracks.has(clip.track) && clip.start >= from && clip.start + clip.length <= to;
    return [...shown.values("clips")]
      .filter(within)
      .sort((a, b) => a.start - b.start)
      .map((clip) => clip.id);
  }

  /** Selects these clips, with their groups, and no others. */
  chooseAll(clipIds: readonly string[]): void {
    const all = this.#grouped(clipIds);
    if (all.length === this.clipIds.length && all.every((id) => this.has(id))) return;
    this.#other = null;
    this.#put(all);
    this.#anchor = clipIds[0];
    this.#keepStep();
  }

  /** Selects a stretch of time on tracks, and the clips that lie in it: they come to the bench. */
  chooseRange(range: Range, clipIds: readonly string[]): void {
    this.#other = null;
    this.selected = { clips: clipIds, stretch: range };
    this.#anchor = clipIds[0];
    this.#keepStep();
  }

  /** Puts the chain of a track, of a recording or of the mix on the bench. */
  chooseOwner(owner: Owner): void {
    if (owner.table === "clips") {
      this.choose(owner.id);
      return;
    }
    this.#put([]);
    this.#other = owner;
    this.#keepStep();
  }

  /** Whether it is this one's chain that is on the bench. */
  isSubject(owner: Owner): boolean {
    const now = this.subject.owner;
    return now.table === owner.table && now.id === owner.id;
  }

  #keepStep(): void {
    const { rows } = this;
    const chosen = rows.some((row) => row.places.some(({ step }) => step.id === this.stepId));
    if (!chosen) this.stepId = rows[0]?.step.id ?? null;
  }

  /** Selects no clip; the stretch of time stays. */
  clear(): void {
    this.#put([]);
    this.#other = null;
    this.stepId = null;
  }

  /** One step back: from the stretch of time to the clips, from those to nothing. Returns whether there was one. */
  stepBack(): boolean {
    if (this.selected.stretch) this.selected = { ...this.selected, stretch: null };
    else if (this.clipIds.length > 0 || this.#other) this.clear();
    else return false;
    return true;
  }
}
