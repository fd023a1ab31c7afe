import { z } from "zod";
import { findEffect } from "../../effects/registry";
import { CommandRefused } from "../refused";
import { idSchema, MAX_STEPS, spanSchema, stepSchema, type Step } from "../schema";
import { kind } from "./command";
import { chainOf, needStep, ownerSchema, setSteps } from "./lookup";

const id = idSchema;

function effectName(effect: string): string {
  return findEffect(effect)?.name ?? effect;
}

/** Steps with one put in before another; at the end when that is not among them. */
function inserted(steps: readonly Step[], step: Step, before: string | null): Step[] {
  const index = steps.findIndex((s) => s.id === before);
  return index < 0 ? [...steps, step] : [...steps.slice(0, index), step, ...steps.slice(index)];
}

export const stepAdd = kind({
  schema: z.object({
    type: z.literal("step.add"),
    owner: ownerSchema,
    /** Id of the chain if the owner has none yet. */
    chainId: id,
    step: stepSchema,
    /** The step that it comes before; null: it comes last. */
    before: id.nullable()
  }),
  label: (c, doc) => `add ${effectName(c.step.effect)} to ${chainOf(doc, c.owner).name}`,
  apply(draft, c) {
    const { chain, name } = chainOf(draft, c.owner);
    const steps = chain?.steps ?? [];
    if (steps.some((s) => s.id === c.step.id))
      throw new CommandRefused("There is already a step with that id.");
    if (steps.length >= MAX_STEPS)
      throw new CommandRefused(`"${name}" already has ${MAX_STEPS} steps, which is the most.`);
    setSteps(draft, c.owner, inserted(steps, c.step, c.before), c.chainId);
  }
});

export const stepRemove = kind({
  schema: z.object({ type: z.literal("step.remove"), owner: ownerSchema, stepId: id }),
  label(c, doc) {
    const { step, name } = needStep(doc, c.owner, c.stepId);
    return `remove ${effectName(step.effect)} from ${name}`;
  },
  apply(draft, c) {
    const { chain } = needStep(draft, c.owner, c.stepId);
    setSteps(
      draft,
      c.owner,
      chain.steps.filter((s) => s.id !== c.stepId),
      chain.id
    );
  }
});

export const stepMove = kind({
  schema: z.object({
    type: z.literal("step.move"),
    owner: ownerSchema,
    stepId: id,
    /** The step that it comes before; null: it comes last. */
    before: id.nullable()
  }),
  label(c, doc) {
    const { step, name } = needStep(doc, c.owner, c.stepId);
    return `move ${effectName(step.effect)} of ${name}`;
  },
  apply(draft, c) {
    const { chain, step } = needStep(draft, c.owner, c.stepId);
    if (c.before === c.stepId) return;
    const others = chain.steps.filter((s) => s.id !== c.stepId);
    setSteps(draft, c.owner, inserted(others, step, c.before), chain.id);
  }
});

export const stepSet = kind({
  schema: z.object({
    type: z.literal("step.set"),
    owner: ownerSchema,
    stepId: id,
    on: z.boolean().optional(),
    params: stepSchema.shape.params.optional(),
    span: spanSchema.nullable().optional()
  }),
  label(c, doc) {
    const { step } = needStep(doc, c.owner, c.stepId);
    const effect = findEffect(step.effect);
    const name = effect?.name ?? step.effect;
    if (c.on !== undefined) return `switch ${name} ${c.on ? "on" : "off"}`;
    if (c.span !== undefined) return `${name}: span`;
    const changed = Object.keys(c.params ?? {});
    const only = changed.length === 1 ? effect?.params.find((p) => p.id === changed[0]) : undefined;
    return only ? `${name}: ${only.name.toLowerCase()}` : `${name}: settings`;
  },
  apply(draft, c) {
    const { chain, step } = needStep(draft, c.owner, c.stepId);
    const next = {
      ...step,
      on: c.on ?? step.on,
      params: c.params ? { ...step.params, ...c.params } : step.params,
      span: c.span === undefined ? step.span : c.span
    };
    if (next.span && next.span.to <= next.span.from)
      throw new CommandRefused("A span must end after it begins.");
    const checked = stepSchema.safeParse(next);
    if (!checked.success)
      throw new CommandRefused(checked.error.issues[0]?.message ?? "The step is not right.");
    setSteps(
      draft,
      c.owner,
      chain.steps.map((s) => (s.id === c.stepId ? next : s)),
      chain.id
    );
  }
});

/** Puts a whole chain in place of an owner's steps: a preset, or none. */
export const chainReplace = kind({
  schema: z.object({
    type: z.literal("chain.replace"),
    owner: ownerSchema,
    chainId: id,
    steps: z.array(stepSchema).max(MAX_STEPS),
    source: z.string().max(120)
  }),
  label(c, doc) {
    const { name } = chainOf(doc, c.owner);
    return c.steps.length === 0 ? `remove all steps of ${name}` : `apply ${c.source} to ${name}`;
  },
  apply(draft, c) {
    setSteps(draft, c.owner, c.steps, c.chainId);
  },
  touches(c, doc) {
    const { chain } = chainOf(doc, c.owner);
    return [
      { ...c.owner, fields: [c.owner.table === "project" ? "mix" : "chain"] },
      ...(chain ? [{ table: "chains" as const, id: chain.id }] : [])
    ];
  }
});
