// The chain of a batch as it is put together: from a preset, changed for this time only.
import type { PresetView } from "$lib/api/presets";
import { defaultParams, type Params } from "$lib/core/effects/description";
import { effectOf } from "$lib/core/effects/registry";
import type { RecipeStep, Recording } from "$lib/core/session/schema";

export class BatchChain {
  presetId = $state("");
  name = $state("");
  steps = $state.raw<readonly RecipeStep[]>([]);
  recordings = $state.raw<readonly Recording[]>([]);

  /** Takes a preset's steps; what was changed by hand goes. */
  take(preset: PresetView): void {
    this.presetId = preset.id;
    this.name = preset.name;
    this.steps = preset.steps;
    this.recordings = preset.recordings;
  }

  #with(index: number, change: (step: RecipeStep) => RecipeStep): void {
    this.steps = this.steps.map((step, i) => (i === index ? change(step) : step));
  }

  set(index: number, params: Params): void {
    this.#with(index, (step) => ({ ...step, params: { ...step.params, ...params } }));
  }

  switch(index: number): void {
    this.#with(index, (step) => ({ ...step, on: !step.on }));
  }

  remove(index: number): void {
    this.steps = this.steps.filter((_, i) => i !== index);
  }

  /** Moves a step up or down by one. Returns where it is then. */
  move(index: number, by: 1 | -1): number {
    const to = index + by;
    const [moved, other] = [this.steps[index], this.steps[to]];
    if (!moved || !other) return index;
    this.steps = this.steps.map((step, i) => (i === index ? other : i === to ? moved : step));
    return to;
  }

  add(effect: string): void {
    this.steps = [
      ...this.steps,
      { effect, on: true, params: { ...defaultParams(effectOf(effect)) }, span: null }
    ];
  }
}
