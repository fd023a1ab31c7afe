// Changes to the history of the clip on the bench, until they are computed.
import type { JobView } from "$lib/api/jobs";
import { newRecipeStep } from "$lib/core/session/make";
import type { History, Stage } from "$lib/core/session/processes";
import type { RecipeStep } from "$lib/core/session/schema";
import { api } from "../shared/api";
import type { Session } from "./session.svelte";

export class ProcessChanges {
  /** Steps of changed stages, by the recording that each made. */
  #changed = $state.raw<ReadonlyMap<string, readonly RecipeStep[]>>(new Map());

  constructor(private readonly session: Session) {}

  get count(): number {
    return this.#changed.size;
  }

  stepsOf({ madeId, steps }: Stage): readonly RecipeStep[] {
    return this.#changed.get(madeId) ?? steps;
  }

  isChanged({ madeId }: Stage): boolean {
    return this.#changed.has(madeId);
  }

  #set(stage: Stage, steps: readonly RecipeStep[]): void {
    this.#changed = new Map(this.#changed).set(stage.madeId, steps);
  }

  change(stage: Stage, index: number, change: (step: RecipeStep) => RecipeStep): void {
    this.#set(
      stage,
      this.stepsOf(stage).map((step, i) => (i === index ? change(step) : step))
    );
  }

  remove(stage: Stage, index: number): void {
    this.#set(
      stage,
      this.stepsOf(stage).filter((_, i) => i !== index)
    );
  }

  /** Puts another effect, with its defaults, in the place of a process; its stretch stays. */
  replace(stage: Stage, index: number, effect: string): void {
    this.change(stage, index, ({ span }) => ({ ...newRecipeStep(effect, {}), span }));
  }

  move(stage: Stage, index: number, by: 1 | -1): void {
    const steps = [...this.stepsOf(stage)];
    const [one, other] = [steps[index], steps[index + by]];
    if (!one || !other) return;
    steps[index] = other;
    steps[index + by] = one;
    this.#set(stage, steps);
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
    const changes = [...this.#changed].map(([madeId, steps]) => ({ madeId, steps }));
    const job = await api.post<JobView>(`/api/projects/${this.session.projectId}/history`, {
      clipId,
      changes
    });
    this.forget();
    return job;
  }
}
