// The chosen step of what is on the bench.
import { defaultParams } from "$lib/core/effects/description";
import { effectOf } from "$lib/core/effects/registry";
import type { Editor } from "../editor.svelte";
import { treatAll, treatRange } from "../editing";
import type { Action } from "./action";
import { chosenStep } from "./when";

const withStep = (e: Editor) => chosenStep(e) !== undefined;

/** Moves the chosen step by one place. */
const move = (by: 1 | -1) => (e: Editor) => {
  const step = chosenStep(e);
  const { owner, steps } = e.selection.subject;
  if (!step) return;
  const others = steps.filter((s) => s.id !== step.id);
  const at = steps.indexOf(step) + by;
  if (at < 0 || at >= steps.length) return;
  e.session.run({ type: "step.move", owner, stepId: step.id, before: others[at]?.id ?? null });
};

export const steps: readonly Action[] = [
  {
    id: "stepOn",
    name: "Switch the chosen step on or off",
    enabled: withStep,
    run: (e) => {
      const step = chosenStep(e);
      const { owner } = e.selection.subject;
      if (step) e.session.run({ type: "step.set", owner, stepId: step.id, on: !step.on });
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
      const { owner, steps: all } = e.selection.subject;
      if (!step) return;
      const at = all.indexOf(step);
      if (!e.session.run({ type: "step.remove", owner, stepId: step.id })) return;
      const left = e.selection.subject.steps;
      e.selection.stepId = left[Math.min(at, left.length - 1)]?.id ?? null;
    }
  }
];
