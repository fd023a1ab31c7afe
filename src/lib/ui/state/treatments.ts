// Copying what was done to a sound, giving it to others, and taking it off. What was copied goes to other projects as well.
import { asOne } from "$lib/core/session/commands";
import { rowOn, type Row } from "$lib/core/session/together";
import {
  pasteCommands,
  removeCommands,
  treatmentOf,
  treatmentSchema,
  type Parts,
  type Treatment
} from "$lib/core/session/treatment";
import { completeParams, effectOf } from "$lib/core/effects/registry";
import type { RecipeStep } from "$lib/core/session/schema";
import { formatDb } from "$lib/core/units/decibels";
import { lengthText } from "$lib/core/units/timeFormat";
import { notices } from "../shared/notices.svelte";
import { newId } from "./editing";
import type { Editor } from "./editor.svelte";

const KEY = "wring.treatment";

/** Takes the treatment of what is on the bench along. */
export function copyTreatment(editor: Editor): void {
  const { owner } = editor.selection.subject;
  const treatment = treatmentOf(editor.session.document, owner, editor.sampleRate);
  try {
    localStorage.setItem(KEY, JSON.stringify(treatment));
  } catch {
    notices.fault("The treatment could not be copied: the browser keeps no more for this page.");
    return;
  }
  const { length } = treatment.steps;
  notices.news(
    `The treatment of ${treatment.from} is copied: ${length} step${length === 1 ? "" : "s"}. U pastes it.`
  );
}

/** What was copied last, here or in another project; undefined when nothing was. */
export function copiedTreatment(): Treatment | undefined {
  const text = localStorage.getItem(KEY);
  if (text === null) return undefined;
  try {
    return treatmentSchema.parse(JSON.parse(text));
  } catch {
    // Of another version, or not ours: there is nothing to paste.
    return undefined;
  }
}

/** Gives parts of a treatment to all that is on the bench. */
export function pasteTreatment(
  editor: Editor,
  treatment: Treatment,
  parts: Parts,
  mode: "replace" | "append"
): boolean {
  const { session, selection, sampleRate } = editor;
  const commands = pasteCommands(session.document, treatment, selection.subject.owners, {
    parts,
    mode,
    sampleRate,
    newId
  });
  const command = asOne(commands, session.document, `treat ${selection.title} as ${treatment.from}`);
  if (!command || !session.run(command)) return false;
  selection.stepId = selection.rows[0]?.step.id ?? null;
  return true;
}

/** Takes steps, gain, fades and lines off all that is on the bench. */
export function takeOff(editor: Editor, rows: readonly Row[], parts: Omit<Parts, "steps">): boolean {
  const { session, selection } = editor;
  const gone = new Set(rows.flatMap(({ places }) => places.map(({ step }) => step.id)));
  const { owners } = selection.subject;
  const commands = removeCommands(session.document, owners, (_, step) => gone.has(step.id), parts, newId);
  const command = asOne(commands, session.document, `take treatment off ${selection.title}`);
  return command !== undefined && session.run(command);
}

/** A step in a few words: "2 Limiter -1.0 dBTP, a part". */
export function stepText({ effect, params, on, span }: RecipeStep): string {
  const known = effectOf(effect);
  const rest = `${known.summary(completeParams(known, params))}${span ? ", on a part" : ""}${on ? "" : ", off"}`;
  return `${known.name}: ${rest}`;
}

/** A row of the bench in a few words. */
export function rowText(row: Row): string {
  const { places, missing, step } = row;
  const where = missing > 0 ? `, in ${places.length} of ${places.length + missing}` : "";
  return places.length === 1
    ? stepText(step)
    : `${effectOf(step.effect).name}${rowOn(row) === false ? ", off" : ""}${where}`;
}

/** Gain, fades and line of a treatment in words; undefined where it has none. */
export function behindText({ preferences }: Editor, treatment: Treatment) {
  const { gainDb, fadeIn, fadeOut, line, sampleRate } = treatment;
  const length = (frames: number) => lengthText(frames, sampleRate, preferences.time);
  return {
    gain: gainDb === undefined ? undefined : `Gain ${formatDb(gainDb, 1, true)} dB`,
    fades:
      fadeIn && fadeOut ? `Fades: in ${length(fadeIn.length)}, out ${length(fadeOut.length)}` : undefined,
    line:
      line === undefined
        ? undefined
        : line === null
          ? "No gain line"
          : `Gain line of ${line.points.length} point${line.points.length === 1 ? "" : "s"}`
  };
}
