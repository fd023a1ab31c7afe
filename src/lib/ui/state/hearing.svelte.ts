// What is listened to: the sound on the bench as it is, as it came, kept states of its chain, presets that are not applied. Nothing of it is saved.
import type { Measurement } from "$lib/core/measure/meter";
import { equalGains, type Heard } from "$lib/core/render/compare";
import { recordingsOf } from "$lib/core/effects/registry";
import { ownerFault, stepsOfOwner } from "$lib/core/session/owners";
import type { Step, Version } from "$lib/core/session/schema";
import type { PresetView } from "$lib/api/presets";
import { notices } from "../shared/notices.svelte";
import type { Analysis } from "./analysis.svelte";
import { CandidateLevels } from "./candidateLevels.svelte";
import type { Selection } from "./selection.svelte";
import type { Session } from "./session.svelte";

/** As many as there are keys for. */
export const MOST_CANDIDATES = 4;

/** A state that was kept, or a preset: another chain for what is on the bench. */
interface Extra {
  readonly name: string;
  readonly kind: "version" | "preset";
  readonly steps: readonly Step[];
}

export interface Candidate {
  readonly name: string;
  readonly kind: "before" | "after" | Extra["kind"];
  /** null: the sound as it is. */
  readonly steps: readonly Step[] | null;
  readonly levels: Measurement | undefined;
}

type Levels = Pick<Measurement, "integratedLufs" | "truePeakDbtp" | "noiseFloorDbfs">;

const AFTER = 1;
const NONE: readonly Extra[] = [];

export class Hearing {
  /** Number of the candidate that is heard. */
  #chosen = $state(AFTER);
  /** Whether another than the sound as it is has been heard since it came to the bench: from then on all are equally loud. */
  #comparing = $state(false);
  equalLoudness = $state(true);
  difference = $state(false);
  #extras = $state.raw<ReadonlyMap<string, readonly Extra[]>>(new Map());
  readonly levels: CandidateLevels;
  #subject = "";

  constructor(
    private readonly session: Session,
    private readonly selection: Selection,
    private readonly analysis: Analysis
  ) {
    this.levels = new CandidateLevels(session, selection);
  }

  get #key(): string {
    const { owner } = this.selection.subject;
    return `${owner.table} ${owner.id}`;
  }

  get #own(): readonly Extra[] {
    return this.#extras.get(this.#key) ?? NONE;
  }

  /** What can be heard, by its key less one. */
  get candidates(): Candidate[] {
    return [
      { name: "before", kind: "before", steps: [], levels: this.#before },
      { name: "after", kind: "after", steps: null, levels: this.analysis.output ?? undefined },
      ...this.#own.map((extra) => ({ ...extra, levels: this.levels.of(extra.steps) }))
    ];
  }

  /** The sound as it came, at the level at which it would go on. */
  get #before(): Measurement | undefined {
    const { start } = this.analysis;
    const gain = this.#gainBehind();
    return (
      start && {
        ...start,
        integratedLufs: start.integratedLufs + gain,
        truePeakDbtp: start.truePeakDbtp + gain,
        noiseFloorDbfs: start.noiseFloorDbfs + gain
      }
    );
  }

  /** The gain behind the chain on the bench: that of the clip, the track, the mix. */
  #gainBehind(): number {
    const { owner, clip } = this.selection.subject;
    if (clip) return clip.gainDb;
    const doc = this.session.shown;
    if (owner.table === "tracks") return doc.get("tracks", owner.id)?.gainDb ?? 0;
    return owner.table === "project" ? doc.project.mix.gainDb : 0;
  }

  get chosen(): number {
    return Math.min(this.#chosen, this.candidates.length - 1);
  }

  /** Hears a candidate; one that there is not is left alone. */
  choose(index: number): void {
    if (index < 0 || index >= this.candidates.length) return;
    this.#chosen = index;
    if (index !== AFTER) this.#comparing = true;
  }

  /** Between before and after. */
  toggle(): void {
    this.choose(this.chosen === AFTER ? 0 : AFTER);
  }

  /** Gains in dB that make all candidates equally loud. */
  get gains(): number[] {
    return equalGains(
      this.candidates.map(({ levels }) => levels),
      AFTER
    );
  }

  /** How candidates differ from the sound as it is, in LU and dB; undefined as long as it is not known. */
  differences(levels: Levels | undefined): Levels | undefined {
    const own = this.analysis.output;
    if (!own || !levels) return undefined;
    return {
      integratedLufs: levels.integratedLufs - own.integratedLufs,
      truePeakDbtp: levels.truePeakDbtp - own.truePeakDbtp,
      noiseFloorDbfs: levels.noiseFloorDbfs - own.noiseFloorDbfs
    };
  }

  /** What is heard instead of the document; null: the document. */
  get heard(): Heard | null {
    const { candidates, chosen } = this;
    const { owners } = this.selection.subject;
    const steps = candidates[chosen]?.steps ?? null;
    const equal = this.equalLoudness && this.#comparing && !this.difference;
    const gainDb = equal ? (this.gains[chosen] ?? 0) : 0;
    return { owners, steps, gainDb, difference: this.difference };
  }

  /** Takes the chain as it is now among the candidates, to be heard later. */
  keep(): void {
    const { owner } = this.selection.subject;
    const kept = this.#own.filter(({ name }) => /^state \d+$/.test(name)).length;
    const steps = stepsOfOwner(this.session.document, owner);
    this.#add({ name: `state ${kept + 1}`, kind: "version", steps });
  }

  /** Takes a kept version of the clip among the candidates. */
  addVersion({ id, name, steps }: Version): void {
    if (this.#own.some((extra) => extra.name === name)) return;
    this.#add({
      name,
      kind: "version",
      steps: steps.map((step, i): Step => ({ ...step, id: `${id}-${i}` }))
    });
  }

  /** Takes a preset among the candidates, without applying it. */
  add(preset: PresetView): void {
    const { owner } = this.selection.subject;
    const fault = preset.steps.map((step) => ownerFault(owner.table, step)).find((one) => one !== undefined);
    if (fault) {
      notices.fault(fault);
      return;
    }
    const gone = preset.steps
      .flatMap(recordingsOf)
      .some((id) => !this.session.document.get("recordings", id));
    if (gone) {
      notices.fault(
        `"${preset.name}" needs a recording that is not in this project: apply it to bring that along.`
      );
      return;
    }
    const steps = preset.steps.map((step, i): Step => ({ ...step, id: `candidate-${i}` }));
    this.#add({ name: preset.name, kind: "preset", steps });
  }

  #add(extra: Extra): void {
    const own = this.#own;
    if (own.length >= MOST_CANDIDATES - 2) {
      notices.fault(`${MOST_CANDIDATES} can be compared at once: take one away first.`);
      return;
    }
    this.#put([...own, extra]);
    this.measure();
  }

  #put(extras: readonly Extra[]): void {
    this.#extras = new Map(this.#extras).set(this.#key, extras);
  }

  /** Takes a kept state or a preset away from the candidates. */
  remove(index: number): void {
    this.#put(this.#own.filter((_, i) => i !== index - 2));
    if (this.#chosen >= index) this.choose(AFTER);
  }

  /** Call in an effect: measures the candidates of what is on the bench; another sound is heard as it is first. */
  measure(): void {
    const { subject } = this.selection;
    if (this.#key !== this.#subject) {
      this.#subject = this.#key;
      this.#chosen = AFTER;
      this.#comparing = false;
      this.difference = false;
    }
    this.levels.want(
      subject,
      this.#own.map(({ steps }) => steps)
    );
  }

  close(): void {
    this.levels.close();
  }
}
