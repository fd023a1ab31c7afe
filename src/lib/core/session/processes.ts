// Everything that made the sound of a clip, in order: from the import on, earlier renders and the recording's chain included.
//
//   import ─ its chain, steps ─► render ─ its chain, steps ─► … the clip's recording ─ its chain ─ the clip's chain
import { resolveClip } from "./lookup";
import { stepsOfOwner, type Owner } from "./owners";
import type { Clip, Recording, RecipeStep, Step } from "./schema";
import type { Tables } from "./tables";

/** A recording, and what was done to it to make the next. */
export interface Stage {
  readonly recordingId: string;
  readonly name: string;
  readonly kind: Recording["kind"];
  /** Steps that were rendered: those of the recording's chain as they were, then those of the clip. */
  readonly steps: readonly RecipeStep[];
  /** How many of them were steps of the recording's chain. */
  readonly below: number;
  /** Frame of the recording that became the first of the one that they made. */
  readonly origin: number;
  /** The recording that they made. */
  readonly madeId: string;
  /** Why they cannot be computed again; undefined: they can. */
  readonly fault: string | undefined;
}

export interface History {
  /** What is done and rendered, the oldest first. */
  readonly stages: readonly Stage[];
  /** The recording that the clip shows. */
  readonly recording: Recording | undefined;
  /** Chains that are live, or rendered for this clip alone, in the order in which they are heard. */
  readonly chains: readonly { readonly owner: Owner; readonly steps: readonly Step[] }[];
  /** Where it begins, in words, when that is no import: what lies before cannot be told. */
  readonly before: string | undefined;
}

/** Longest descent that is followed: recordings that name each other in a ring end it. */
const MOST_STAGES = 200;

function stageOf(doc: Tables, made: Recording): Stage | undefined {
  const { provenance } = made;
  if (!provenance?.source || !provenance.steps || !provenance.window) return undefined;
  const source = doc.get("recordings", provenance.source);
  const below = provenance.recordingSteps ?? [];
  return {
    recordingId: provenance.source,
    name: source?.name ?? "a recording that is gone",
    kind: source?.kind ?? "import",
    steps: [...below, ...provenance.steps],
    below: below.length,
    origin: provenance.window.offset,
    madeId: made.id,
    fault: source
      ? undefined
      : `What "${made.name}" was made from is no longer in the project: it cannot be computed again.`
  };
}

/** What a recording was made from, stage by stage, the oldest first; and the recording with which that begins. */
export function descentOf(
  doc: Tables,
  recordingId: string
): { stages: Stage[]; first: Recording | undefined } {
  const stages: Stage[] = [];
  const seen = new Set<string>();
  let first = doc.get("recordings", recordingId);
  while (first && !seen.has(first.id) && stages.length < MOST_STAGES) {
    seen.add(first.id);
    const stage = stageOf(doc, first);
    if (!stage) break;
    stages.unshift(stage);
    first = doc.get("recordings", stage.recordingId);
  }
  return { stages, first };
}

/** The history of a clip. Costs what it tells. */
export function historyOf(doc: Tables, clip: Clip): History {
  const { recordingId } = resolveClip(doc, clip);
  const { stages, first } = descentOf(doc, recordingId);
  const owners: Owner[] = [
    { table: "recordings", id: recordingId },
    { table: "clips", id: clip.id }
  ];
  return {
    stages,
    recording: doc.get("recordings", recordingId),
    chains: owners.map((owner) => ({ owner, steps: stepsOfOwner(doc, owner) })),
    before: first?.kind === "render" && first.provenance ? first.provenance.text : undefined
  };
}

/** What a stage is computed with instead of what it was. */
export interface StageChange {
  /** The recording that the stage made. */
  readonly madeId: string;
  /** All of its steps, those of the recording's chain first. */
  readonly steps: readonly RecipeStep[];
  /** How many of them are steps of the recording's chain; as many as there were when left out. */
  readonly below?: number | undefined;
}

/** Steps of a stage, and how many of them are of the recording's chain. */
export type StageSteps = Pick<Stage, "steps" | "below">;

/** Without one of its steps. */
export function withoutProcess({ steps, below }: StageSteps, index: number): StageSteps {
  return { steps: steps.filter((_, i) => i !== index), below: index < below ? below - 1 : below };
}

/** A step as it lies on a recording that begins `frames` later; undefined when nothing of its span is left there. */
function shifted(step: RecipeStep, frames: number): RecipeStep | undefined {
  if (!step.span) return step;
  const span = { ...step.span, from: Math.max(0, step.span.from - frames), to: step.span.to - frames };
  return span.to > span.from ? { ...step, span } : undefined;
}

/**
 * Moves a process across a render: the last one of a stage to the beginning of the next, or the first of that to the end of this.
 * @param way 1: later; -1: earlier
 * @returns both stages; undefined when there is no such process, or nothing of its span lies there
 */
export function acrossRender(
  earlier: StageSteps & Pick<Stage, "origin">,
  later: StageSteps,
  way: 1 | -1
): readonly [StageSteps, StageSteps] | undefined {
  const found = way === 1 ? earlier.steps.at(-1) : later.steps[0];
  const step = found && shifted(found, way * earlier.origin);
  if (!step) return undefined;
  if (way === 1)
    return [
      withoutProcess(earlier, earlier.steps.length - 1),
      { steps: [step, ...later.steps], below: later.below > 0 ? later.below + 1 : 0 }
    ];
  return [{ steps: [...earlier.steps, step], below: earlier.below }, withoutProcess(later, 0)];
}

/**
 * What must be computed anew when stages change: from the first changed one on, in order.
 * @returns the stages with their new steps, or the sentence of why that cannot be
 */
export function recomputed(history: History, changes: readonly StageChange[]): readonly Stage[] | string {
  const wanted = new Map(changes.map((change) => [change.madeId, change]));
  const first = history.stages.findIndex((stage) => wanted.has(stage.madeId));
  if (first < 0) return "Nothing has changed: there is nothing to compute again.";
  const stages = history.stages.slice(first);
  const broken = stages.find((stage) => stage.fault !== undefined);
  if (broken?.fault !== undefined) return broken.fault;
  return stages.map((stage) => {
    const { steps = stage.steps, below = stage.below } = wanted.get(stage.madeId) ?? {};
    return { ...stage, steps, below: Math.min(below, steps.length) };
  });
}
