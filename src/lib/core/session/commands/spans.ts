// Which stretch of its owner's sound a step treats.
import { z } from "zod";
import { findEffect } from "../../effects/registry";
import type { Step } from "../schema";
import type { Owner } from "../owners";
import { CommandRefused } from "../refused";
import { idSchema, MAX_FRAMES, spanSchema } from "../schema";
import type { Draft } from "../draft";
import { spanWithin } from "../spans";
import type { Tables } from "../tables";
import { kind } from "./command";
import { chainOf, needStep, ownerSchema, setSteps } from "./lookup";

const id = idSchema;
const frame = z.number().int().min(0).max(MAX_FRAMES);
const edgeMs = spanSchema.shape.edgeMs;

type Span = NonNullable<Step["span"]>;

function put(draft: Draft, owner: Owner, stepId: string, span: Span | null): void {
  const { chain, step } = needStep(draft, owner, stepId);
  if (span && span.to <= span.from) throw new CommandRefused("A span must end after it begins.");
  const next = { ...step, span };
  setSteps(
    draft,
    owner,
    chain.steps.map((s) => (s.id === stepId ? next : s)),
    chain.id
  );
}

function named(doc: Tables, owner: Owner, stepId: string): string {
  const { step } = needStep(doc, owner, stepId);
  return findEffect(step.effect)?.name ?? step.effect;
}

/** Gives steps of many owners the part of their sound that lies in a range of the timeline, or makes them whole. */
export const spanSet = kind({
  schema: z.object({
    type: z.literal("span.set"),
    steps: z
      .array(z.object({ owner: ownerSchema, stepId: id }))
      .min(1)
      .max(1000),
    /** On the timeline; null: all of the sound. */
    range: z.object({ from: frame, to: frame }).nullable(),
    edgeMs
  }),
  label(c, doc) {
    const [first] = c.steps;
    const name =
      first && c.steps.length === 1 ? named(doc, first.owner, first.stepId) : `${c.steps.length} steps`;
    return c.range ? `span of ${name}` : `${name} over all of the sound`;
  },
  apply(draft, { steps, range, edgeMs }) {
    let given = 0;
    for (const { owner, stepId } of steps) {
      const span = range && spanWithin(draft, owner, range);
      if (range && !span) continue;
      const edge = edgeMs ?? needStep(draft, owner, stepId).step.span?.edgeMs;
      put(draft, owner, stepId, span ? { ...span, ...(edge === undefined ? {} : { edgeMs: edge }) } : null);
      given++;
    }
    if (given === 0) throw new CommandRefused("None of the steps' sound lies within the range.");
  }
});

function needSpan(doc: Tables, owner: Owner, stepId: string): Span {
  const { step } = needStep(doc, owner, stepId);
  if (!step.span)
    throw new CommandRefused(`${named(doc, owner, stepId)} treats all of the sound: it has no span.`);
  return step.span;
}

export const spanMove = kind({
  schema: z.object({
    type: z.literal("span.move"),
    owner: ownerSchema,
    stepId: id,
    /** Frames, to the later; it stops at the beginning of the sound. */
    by: z.number().int().min(-MAX_FRAMES).max(MAX_FRAMES)
  }),
  label: (c, doc) => `move the span of ${named(doc, c.owner, c.stepId)}`,
  apply(draft, { owner, stepId, by }) {
    const span = needSpan(draft, owner, stepId);
    const moved = Math.max(by, -span.from);
    put(draft, owner, stepId, { ...span, from: span.from + moved, to: span.to + moved });
  },
  touches: (c, doc) => spanOf(doc, c.owner)
});

export const spanTrim = kind({
  schema: z.object({
    type: z.literal("span.trim"),
    owner: ownerSchema,
    stepId: id,
    from: frame.optional(),
    to: frame.optional(),
    edgeMs
  }),
  label: (c, doc) => `trim the span of ${named(doc, c.owner, c.stepId)}`,
  apply(draft, { owner, stepId, from, to, edgeMs }) {
    const span = needSpan(draft, owner, stepId);
    const edge = edgeMs ?? span.edgeMs;
    const trimmed = { ...span, from: from ?? span.from, to: to ?? span.to };
    put(draft, owner, stepId, edge === undefined ? trimmed : { ...trimmed, edgeMs: edge });
  },
  touches: (c, doc) => spanOf(doc, c.owner)
});

function spanOf(doc: Tables, owner: Owner) {
  const { chain } = chainOf(doc, owner);
  return chain ? [{ table: "chains" as const, id: chain.id, fields: ["steps"] }] : [];
}
