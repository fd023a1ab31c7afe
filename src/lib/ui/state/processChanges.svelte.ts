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

export class ProcessChanges {
  /** Steps of changed stages, by the recording that each made. */
  #changed = $state.raw<ReadonlyMap<string, StageSteps>>(new Map());

  constructor(private readonly session: Session) {}

  get count(): number {
    return this.#changed.size;
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
  #moved(stages: readonly Stage[], stage: Stage, index: number, by: 1 | -1) {
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

  movable(stages: readonly Stage[], stage: Stage, index: number, by: 1 | -1): boolean {
    return this.#moved(stages, stage, index, by) !== undefined;
  }

  move(stages: readonly Stage[], stage: Stage, index: number, by: 1 | -1): void {
    this.#set(...(this.#moved(stages, stage, index, by) ?? []));
  }

  forget(): void {
    this.#changed = new Map();
  }

  /** Leaves out what the history no longer has. */
  keepTo({ stages }: History): void {
    const there = new Set(stages.map(({ madeId }) => madeId));
    if ([...this.#changed.keys()].every((id) => there.has(id))) return;
    this.#changed = new Map([...this.#changed].filter(([id]) => there.has(id)));
  }

  /** Orders that it is computed. @throws Refused with the server's sentence */
  async compute(clipId: string): Promise<JobView> {
    await this.session.settled();
    const changes = [...this.#changed].map(([madeId, { steps, below }]) => ({ madeId, steps, below }));
    const job = await api.post<JobView>(`/api/projects/${this.session.projectId}/history`, {
      clipId,
      changes
    });
    this.forget();
    return job;
  }
}
