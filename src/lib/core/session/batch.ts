// A batch put into a document: every clip gets the chain and its render, every recording a treated one beside it. One edit for all.
import { recipeOf } from "./clipState";
import { alike } from "./equal";
import { stepsOfOwner } from "./owners";
import { defaultParams } from "../effects/description";
import type { NormalizeTarget } from "../effects/normalize";
import { effectOf, recordingsOf } from "../effects/registry";
import { newRecipeStep } from "./make";
import { asOne, type Command, type SingleCommand } from "./commands";
import type { Document } from "./document";
import { numbered } from "./renderNames";
import type { RecipeStep, Recording, Render } from "./schema";

/** A level that sounds are brought to last, by one gain each. */
export interface Level {
  readonly target: NormalizeTarget;
  readonly levelDb: number;
  /** Where the gain stops, in dBTP; null: nowhere. */
  readonly ceilingDb: number | null;
}

/** The step that brings to a level: what is heard as an example, done on the server and by the command line. */
export function levelStep({ target, levelDb, ceilingDb }: Level): RecipeStep {
  const effect = effectOf("normalize");
  const own = { target, levelDb, ...(ceilingDb === null ? {} : { ceilingDb }) };
  return newRecipeStep(effect.id, { ...defaultParams(effect), ...own });
}

/** What one sound came to. */
export interface BatchResult {
  readonly kind: "clip" | "recording";
  readonly id: string;
  readonly jobId: string;
  readonly recording: Recording;
  readonly render: Render;
  readonly lufs: number | null;
  readonly steps: readonly RecipeStep[];
  /** The chain of the clip when it was computed. */
  readonly ground: readonly RecipeStep[];
}

/** Why steps cannot treat a sound by themselves: a noise profile that is to be asked for; undefined when they can. */
export function needsProfile(
  steps: readonly Pick<RecipeStep, "effect" | "on" | "params">[]
): string | undefined {
  const asks = steps.some(
    (step) => step.on && step.effect === "noise-reduction" && step.params.source === "ask"
  );
  return asks
    ? "its noise reduction asks for a profile. Choose that it learns from each sound, or that it carries one."
    : undefined;
}

/** The edit that puts results into the project; what has gone meanwhile is left out. undefined: nothing is left to do. */
export function batchCommand(
  document: Document,
  batch: {
    readonly id: string;
    readonly name: string;
    readonly recordings: readonly Recording[];
    readonly date: string;
  },
  results: readonly BatchResult[]
): Command | undefined {
  const commands: SingleCommand[] = [];
  const taken = new Set<string>();
  const known = (id: string) => taken.has(id) || document.get("recordings", id) !== undefined;
  const asked = new Set(results.flatMap(({ steps }) => steps.flatMap(recordingsOf)));
  for (const recording of batch.recordings)
    if (asked.has(recording.id) && !known(recording.id)) {
      commands.push({ type: "recording.add", recording: { ...recording, chain: null } });
      taken.add(recording.id);
    }
  results.forEach((result, index) => {
    const { kind, id, recording, render, lufs, jobId } = result;
    if (kind === "recording") {
      if (!document.get("recordings", id) || known(recording.id)) return;
      taken.add(recording.id);
      commands.push({
        type: "recording.add",
        recording: { ...recording, name: numbered(document, plain(recording.name)) }
      });
      return;
    }
    if (!document.get("clips", id)) return;
    const owner = { table: "clips" as const, id };
    const steps = result.steps.map((step, i) => ({ ...step, id: `${batch.id}-${index}-${i}` }));
    const version = { id: `v-${jobId}`, name: recording.name, made: batch.date, lufs };
    // Someone worked on it meanwhile: that stays, and what the batch made is kept beside it, as a version.
    if (!alike(recipeOf(stepsOfOwner(document, owner)), result.ground)) {
      commands.push({ type: "clip.render", clipId: id, recording, render, version });
      return;
    }
    commands.push(
      {
        type: "chain.replace",
        owner,
        chainId: `${batch.id}-${index}`,
        steps,
        source: batch.name.slice(0, 120)
      },
      { type: "clip.render", clipId: id, recording, render, version }
    );
  });
  return asOne(commands, document, `batch: ${batch.name}`);
}

/** A name without the number behind it. */
const plain = (name: string) => name.replace(/ \d+$/, "");
