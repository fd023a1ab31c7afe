// Changes to the history of the clip on the bench, until they are computed.
import type { JobView } from "$lib/api/jobs";
import { newRecipeStep } from "$lib/core/session/make";
import {
  acrossRender,
  withoutProcess,
  type History,
  type Stage,
  type StageSteps
} from "$lib/core/session/processes";
import type { RecipeStep } from "$lib/core/session/schema";
import { api } from "../shared/api";
import type { Session } from "./session.svelte";

/** A step of the clip's own chain as it is to be; without an id it comes from a render. */
export interface OwnProcess {
  readonly step: RecipeStep;
  readonly id: string | undefined;
}

interface OwnChanges {
  /** What comes to the front of the clip's own chain. */
  readonly add: readonly RecipeStep[];
  /** Ids of the steps that leave it. */
  readonly remove: readonly string[];
}

const NO_CHANGES: OwnChanges = { add: [], remove: [] };

const chainOf = (history: History, table: "clips" | "recordings") =>
  history.chains.find(({ owner }) => owner.table === table)?.steps ?? [];

/** The last render, if processes can go from it to the clip's own chain and back: nothing of the recording lies between. */
function lastOf(history: History): Stage | undefined {
  const last = history.stages.at(-1);
  return last?.fault === undefined && chainOf(history, "recordings").length === 0 ? last : undefined;
}

export class ProcessChanges {
  /** Steps of changed stages, by the recording that each made. */
  #changed = $state.raw<ReadonlyMap<string, StageSteps>>(new Map());
  /** What becomes of the clip's own chain. */
  #own = $state.raw<OwnChanges>(NO_CHANGES);

  constructor(private readonly session: Session) {}

  get count(): number {
    return this.#changed.size;
  }

  /** The clip's own chain as it is to be. */
  own(history: History): readonly OwnProcess[] {
    const { add, remove } = this.#own;
    return [
      ...add.map((step) => ({ step, id: undefined })),
      ...chainOf(history, "clips")
        .filter(({ id }) => !remove.includes(id))
        .map((step) => ({ step, id: step.id }))
    ];
  }

  get ownChanged(): boolean {
    return this.#own.add.length + this.#own.remove.length > 0;
  }

  /** The steps of a stage as they are to be. */
  of(stage: Stage): StageSteps {
    return this.#changed.get(stage.madeId) ?? stage;
  }

  isChanged({ madeId }: Stage): boolean {
    return this.#changed.has(madeId);
  }

  #set(...changes: readonly (readonly [Stage, StageSteps])[]): void {
    const next = new Map(this.#changed);
    for (const [{ madeId }, { steps, below }] of changes) next.set(madeId, { steps, below });
    this.#changed = next;
  }

  change(stage: Stage, index: number, change: (step: RecipeStep) => RecipeStep): void {
    const { steps, below } = this.of(stage);
    this.#set([stage, { steps: steps.map((step, i) => (i === index ? change(step) : step)), below }]);
  }

  remove(stage: Stage, index: number): void {
    this.#set([stage, withoutProcess(this.of(stage), index)]);
  }

  /** Puts another effect, with its defaults, in the place of a process; its stretch stays. */
  replace(stage: Stage, index: number, effect: string): void {
    this.change(stage, index, ({ span }) => ({ ...newRecipeStep(effect, {}), span }));
  }

  /** Where a process goes when it is moved by one: within its stage, or across a render into the stage beside it; undefined: nowhere. */
  #moved({ stages }: History, stage: Stage, index: number, by: 1 | -1) {
    const { steps, below } = this.of(stage);
    const [one, other] = [steps[index], steps[index + by]];
    if (one && other) {
      const next = [...steps];
      next[index] = other;
      next[index + by] = one;
      return [[stage, { steps: next, below }] as const];
    }
    const beside = stages[stages.indexOf(stage) + by];
    if (!one || !beside || beside.fault !== undefined) return undefined;
    const [earlier, later] = by === 1 ? [stage, beside] : [beside, stage];
    const both = acrossRender({ ...this.of(earlier), origin: earlier.origin }, this.of(later), by);
    return both && [[earlier, both[0]] as const, [later, both[1]] as const];
  }

  /** Both sides of a move between the last render and the clip's own chain; undefined: there is none. */
  #overTheEnd(history: History, by: 1 | -1): readonly [Stage, StageSteps, OwnChanges] | undefined {
    const last = lastOf(history);
    if (!last) return undefined;
    const steps = this.own(history).map(({ step: { effect, params, on, span } }) => ({
      effect,
      params,
      on,
      span
    }));
    const both = acrossRender({ ...this.of(last), origin: last.origin }, { steps, below: 0 }, by);
    if (!both) return undefined;
    const { add, remove } = this.#own;
    if (by === 1) return [last, both[0], { add: [...both[1].steps.slice(0, 1), ...add], remove }];
    const id = this.own(history)[0]?.id;
    const own = id === undefined ? { add: add.slice(1), remove } : { add, remove: [...remove, id] };
    return [last, both[0], own];
  }

  #isLast({ stages }: History, stage: Stage, index: number, by: 1 | -1): boolean {
    return by === 1 && stage === stages.at(-1) && index === this.of(stage).steps.length - 1;
  }

  movable(history: History, stage: Stage, index: number, by: 1 | -1): boolean {
    if (this.#isLast(history, stage, index, by)) return this.#overTheEnd(history, 1) !== undefined;
    return this.#moved(history, stage, index, by) !== undefined;
  }

  move(history: History, stage: Stage, index: number, by: 1 | -1): void {
    if (this.#isLast(history, stage, index, by)) this.#cross(history, 1);
    else this.#set(...(this.#moved(history, stage, index, by) ?? []));
  }

  #cross(history: History, by: 1 | -1): void {
    const found = this.#overTheEnd(history, by);
    if (!found) return;
    const [stage, steps, own] = found;
    this.#set([stage, steps]);
    this.#own = own;
  }

  /** Whether a process of the clip's own chain can go one place earlier or later: at its front it goes into the last render. */
  ownMovable(history: History, index: number, by: 1 | -1): boolean {
    const own = this.own(history);
    if (by === -1 && index === 0) return this.#overTheEnd(history, -1) !== undefined;
    return own[index]?.id !== undefined && own[index + by]?.id !== undefined;
  }

  /** @returns the step before which another is to come in the chain, at once; undefined when it is a change that is to be computed */
  moveOwn(history: History, index: number, by: 1 | -1): { id: string; before: string | null } | undefined {
    const own = this.own(history);
    const id = own[index]?.id;
    if (by === -1 && index === 0) this.#cross(history, -1);
    else if (id !== undefined) return { id, before: own[by === 1 ? index + 2 : index - 1]?.id ?? null };
    return undefined;
  }

  forget(): void {
    this.#changed = new Map();
    this.#own = NO_CHANGES;
  }

  /** Leaves out what the history no longer has. */
  keepTo({ stages }: History): void {
    const there = new Set(stages.map(({ madeId }) => madeId));
    if ([...this.#changed.keys()].every((id) => there.has(id))) return;
    // A step between a render that is gone and the chain belongs nowhere.
    this.#own = NO_CHANGES;
    this.#changed = new Map([...this.#changed].filter(([id]) => there.has(id)));
  }

  /** Orders that it is computed. @throws Refused with the server's sentence */
  async compute(clipId: string): Promise<JobView> {
    await this.session.settled();
    const changes = [...this.#changed].map(([madeId, { steps, below }]) => ({ madeId, steps, below }));
    const job = await api.post<JobView>(`/api/projects/${this.session.projectId}/history`, {
      clipId,
      changes,
      ...(this.ownChanged ? { own: this.#own } : {})
    });
    this.forget();
    return job;
  }
}
