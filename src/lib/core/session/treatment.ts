// What was done to a sound, taken from it to be given to others: its chain, and of a clip its fades, gain and gain line.
import { z } from "zod";
import { resampledLength } from "../audio/resampler";
import { recordingsOf } from "../effects/registry";
import { recipeOf } from "./clipState";
import type { SingleCommand } from "./commands";
import { stepsOfOwner, ownerName, type Owner } from "./owners";
import {
  clipSchema,
  fadeSchema,
  gainLineSchema,
  MAX_STEPS,
  recipeStepSchema,
  recordingSchema
} from "./schema";
import type { RecipeStep, Step } from "./schema";
import type { Tables } from "./tables";

/** A treatment as it is kept for pasting, in this project or in another. */
export const treatmentSchema = z.object({
  /** Whom it was taken from. */
  from: z.string(),
  sampleRate: z.number(),
  steps: z.array(recipeStepSchema).max(MAX_STEPS),
  /** The recordings that the steps ask for. */
  recordings: z.array(recordingSchema),
  /** Of a clip: where its window began, from which its spans and its line count. */
  offset: z.number(),
  gainDb: clipSchema.shape.gainDb.optional(),
  fadeIn: fadeSchema.optional(),
  fadeOut: fadeSchema.optional(),
  line: gainLineSchema.nullable().optional()
});
export type Treatment = z.infer<typeof treatmentSchema>;

/** What of a treatment is given, or taken off: numbers of steps, and what lies behind the chain. */
export interface Parts {
  readonly steps: readonly number[];
  readonly gain: boolean;
  readonly fades: boolean;
  readonly line: boolean;
}

/** The treatment of an owner of a chain. */
export function treatmentOf(doc: Tables, owner: Owner, sampleRate: number): Treatment {
  const steps = stepsOfOwner(doc, owner);
  const clip = owner.table === "clips" ? doc.get("clips", owner.id) : undefined;
  const wanted = new Set(steps.flatMap(recordingsOf));
  return {
    from: ownerName(doc, owner),
    sampleRate,
    steps: recipeOf(steps),
    recordings: [...wanted].flatMap((id) => doc.get("recordings", id) ?? []),
    offset: clip?.offset ?? 0,
    ...(clip
      ? { gainDb: clip.gainDb, fadeIn: clip.fadeIn, fadeOut: clip.fadeOut, line: clip.line ?? null }
      : {})
  };
}

/** A place counted from where a sound's window begins, in a sound whose window begins elsewhere and whose rate may be another. */
function moved(at: number, from: number, to: number, ratio: number): number {
  return Math.max(0, Math.round((at - from) * ratio) + to);
}

function movedSpan({ span, ...step }: RecipeStep, from: number, to: number, ratio: number): RecipeStep {
  if (!span) return { ...step, span };
  const begin = moved(span.from, from, to, ratio);
  return {
    ...step,
    span: { ...span, from: begin, to: Math.max(begin + 1, moved(span.to, from, to, ratio)) }
  };
}

/** How a treatment is given to others. */
export interface Pasting {
  readonly parts: Parts;
  /** Whether its steps take the place of those that are there, or come behind them. */
  readonly mode: "replace" | "append";
  readonly sampleRate: number;
  readonly newId: () => string;
}

/** The commands that give parts of a treatment to owners of chains; none where nothing is to be given. */
export function pasteCommands(
  doc: Tables,
  treatment: Treatment,
  owners: readonly Owner[],
  { parts, mode, sampleRate, newId }: Pasting
): SingleCommand[] {
  const ratio = sampleRate / treatment.sampleRate;
  const steps = parts.steps.flatMap((index) => treatment.steps[index] ?? []);
  const out: SingleCommand[] = [];
  if (steps.length > 0) {
    const needed = new Set(steps.flatMap(recordingsOf));
    for (const recording of treatment.recordings)
      if (needed.has(recording.id) && !doc.get("recordings", recording.id))
        out.push({
          type: "recording.add",
          recording: {
            ...recording,
            frames: resampledLength(recording.frames, treatment.sampleRate, sampleRate)
          }
        });
    for (const owner of owners) {
      const offset = owner.table === "clips" ? (doc.get("clips", owner.id)?.offset ?? 0) : 0;
      const fresh = steps.map((step): Step => ({
        ...movedSpan(step, treatment.offset, offset, ratio),
        params: { ...step.params },
        id: newId()
      }));
      const before = mode === "append" ? stepsOfOwner(doc, owner) : [];
      out.push({
        type: "chain.replace",
        owner,
        chainId: newId(),
        steps: [...before, ...fresh],
        source: `the chain of ${treatment.from}`.slice(0, 120)
      });
    }
  }
  return [...out, ...behind(doc, treatment, clipsIn(owners), parts, ratio)];
}

const clipsIn = (owners: readonly Owner[]) =>
  owners.flatMap(({ table, id }) => (table === "clips" ? [id] : []));

/** What lies behind the chain: gain, fades, line. */
function behind(
  doc: Tables,
  {
    gainDb,
    fadeIn,
    fadeOut,
    line,
    offset
  }: Pick<Treatment, "gainDb" | "fadeIn" | "fadeOut" | "line" | "offset">,
  clipIds: readonly string[],
  parts: Parts,
  ratio: number
): SingleCommand[] {
  const out: SingleCommand[] = [];
  if (clipIds.length === 0) return out;
  if (parts.gain && gainDb !== undefined) out.push({ type: "clip.set", clipIds: [...clipIds], gainDb });
  if (parts.fades && fadeIn && fadeOut)
    out.push({
      type: "clip.fades",
      fades: clipIds.flatMap((clipId) => {
        const length = doc.get("clips", clipId)?.length ?? 0;
        const within = (frames: number, most: number) => Math.min(most, Math.round(frames * ratio));
        const first = within(fadeIn.length, length);
        return [
          { clipId, edge: "in" as const, fade: { ...fadeIn, length: first } },
          {
            clipId,
            edge: "out" as const,
            fade: { ...fadeOut, length: within(fadeOut.length, length - first) }
          }
        ];
      })
    });
  if (parts.line && line !== undefined)
    for (const clipId of clipIds) {
      const to = doc.get("clips", clipId)?.offset ?? 0;
      out.push({
        type: "clip.set",
        clipIds: [clipId],
        line: line && {
          ...line,
          points: ascending(line.points.map((p) => ({ ...p, at: moved(p.at, offset, to, ratio) })))
        }
      });
    }
  return out;
}

/** Points that fell on one place: the last counts. */
function ascending<P extends { readonly at: number }>(points: readonly P[]): P[] {
  return points.filter((point, i) => points[i + 1]?.at !== point.at);
}

const NONE = { length: 0, shape: { curve: "straight" as const } };

/**
 * The commands that take treatment off.
 * @param steps ids of the steps to go, by owner; others stay
 */
export function removeCommands(
  doc: Tables,
  owners: readonly Owner[],
  goes: (owner: Owner, step: Step) => boolean,
  parts: Omit<Parts, "steps">,
  newId: () => string
): SingleCommand[] {
  const out: SingleCommand[] = [];
  for (const owner of owners) {
    const steps = stepsOfOwner(doc, owner);
    const left = steps.filter((step) => !goes(owner, step));
    if (left.length < steps.length)
      out.push({ type: "chain.replace", owner, chainId: newId(), steps: left, source: "what is left" });
  }
  const clips = clipsIn(owners).flatMap((id) => doc.get("clips", id) ?? []);
  const at = (change: (clip: (typeof clips)[number]) => boolean) => clips.filter(change).map(({ id }) => id);
  const gained = at((clip) => clip.gainDb !== 0);
  if (parts.gain && gained.length > 0) out.push({ type: "clip.set", clipIds: gained, gainDb: 0 });
  const faded = at((clip) => clip.fadeIn.length > 0 || clip.fadeOut.length > 0);
  if (parts.fades && faded.length > 0)
    out.push({
      type: "clip.fades",
      fades: faded.flatMap((clipId) => [
        { clipId, edge: "in" as const, fade: NONE },
        { clipId, edge: "out" as const, fade: NONE }
      ])
    });
  const lined = at((clip) => Boolean(clip.line));
  if (parts.line && lined.length > 0) out.push({ type: "clip.set", clipIds: lined, line: null });
  return out;
}
