// The chosen step of what is on the bench.
import { defaultParams } from "$lib/core/effects/description";
import { effectOf } from "$lib/core/effects/registry";
import type { Editor } from "../editor.svelte";
import { moveStep, removeStep, switchStep, treatAll, treatRange } from "../editing";
import type { Action } from "./action";
import { chosenStep } from "./when";

const withStep = (e: Editor) => chosenStep(e) !== undefined;

/** Moves the chosen step by one place. */
const move = (by: 1 | -1) => (e: Editor) => {
  const step = chosenStep(e);
  if (step) moveStep(e, step.id, e.selection.subject.steps.indexOf(step) + by);
};

export const steps: readonly Action[] = [
  {
    id: "stepOn",
    name: "Switch the chosen step on or off",
    enabled: withStep,
    run: (e) => {
      const step = chosenStep(e);
      if (step) switchStep(e, step);
    }
  },
  { id: "stepUp", name: "Move the chosen step up", enabled: withStep, run: move(-1) },
  { id: "stepDown", name: "Move the chosen step down", enabled: withStep, run: move(1) },
  {
    id: "stepDefault",
    name: "Set the chosen step to its default",
    enabled: withStep,
    run: (e) => {
      const step = chosenStep(e);
      const { owner } = e.selection.subject;
      if (!step) return;
      const params = { ...defaultParams(effectOf(step.effect)) };
      e.session.run({ type: "step.set", owner, stepId: step.id, params });
    }
  },
  {
    id: "spanRange",
    name: "The chosen step treats the range only",
    enabled: (e) => withStep(e) && e.selection.range !== null,
    run: (e) => {
      const step = chosenStep(e);
      if (step) treatRange(e, e.selection.subject.owner, step.id);
    }
  },
  {
    id: "spanWhole",
    name: "The chosen step treats all of the sound",
    enabled: (e) => withStep(e) && chosenStep(e)?.span !== null,
    run: (e) => {
      const step = chosenStep(e);
      if (step) treatAll(e, e.selection.subject.owner, step.id);
    }
  },
  {
    id: "stepRemove",
    name: "Remove the chosen step",
    enabled: withStep,
    run: (e) => {
      const step = chosenStep(e);
      if (step) removeStep(e, step.id);
    }
  }
];
