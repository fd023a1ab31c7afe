// What people do to the steps on the bench: those of one owner of a chain, or the same of several at once.
import { asOne, labelOf, type SingleCommand } from "$lib/core/session/commands";
import { newStep } from "$lib/core/session/make";
import { stepsOfOwner, type Owner } from "$lib/core/session/owners";
import type { Step } from "$lib/core/session/schema";
import { spanWithin } from "$lib/core/session/spans";
import { rowOn, stepBefore, type Place, type Row } from "$lib/core/session/together";
import { defaultParams, type EffectDescription, type Params } from "$lib/core/effects/description";
import { keptParams } from "$lib/core/effects/keptParams";
import { completeParams, effectOf } from "$lib/core/effects/registry";
import { newId } from "./editing";
import type { Editor } from "./editor.svelte";

type Make = (place: Place) => SingleCommand;

/** One command for all steps of a row. */
function overRow({ session }: Editor, { places }: Row, make: Make) {
  const [first, ...others] = places;
  const command = make(first);
  if (others.length === 0) return command;
  const name = `${labelOf(command, session.document)} in ${places.length} clips`;
  return asOne([command, ...others.map(make)], session.document, name) ?? command;
}

/** Changes a row in all chains that have it. False when that was refused. */
function runRow(editor: Editor, row: Row, make: Make): boolean {
  return editor.session.run(overRow(editor, row, make));
}

/** Parameters of a row as they are pulled: heard, not kept. */
export function draftParams(editor: Editor, row: Row, params: Params): void {
  editor.session.draft(
    overRow(editor, row, ({ owner, step }) => ({
      type: "step.set",
      owner,
      stepId: step.id,
      params: { ...params }
    }))
  );
}

/** Sets parameters of a row; others stay as each chain has them. */
export function setParams(editor: Editor, row: Row, params: Params): boolean {
  return runRow(editor, row, ({ owner, step }) => ({
    type: "step.set",
    owner,
    stepId: step.id,
    params: { ...params }
  }));
}

/** Sets a row to its effect's defaults. */
export function resetRow(editor: Editor, row: Row): boolean {
  return setParams(editor, row, defaultParams(effectOf(row.step.effect)));
}

/** One command for all steps of rows; `several`: what undo calls it when it is not about one row. */
function overRows(editor: Editor, rows: readonly Row[], make: Make, several: (steps: number) => string) {
  const [first, ...others] = rows;
  if (first && others.length === 0) return overRow(editor, first, make);
  const commands = rows.flatMap(({ places }) => places.map(make));
  return asOne(commands, editor.session.document, several(commands.length));
}

const switchName = (on: boolean) => (steps: number) => `switch ${steps} steps ${on ? "on" : "off"}`;

/** Switches rows: off when they are on everywhere, else on. */
export function switchRows(editor: Editor, rows: readonly Row[]): void {
  const on = !rows.every((row) => rowOn(row) === true);
  const make: Make = ({ owner, step }) => ({ type: "step.set", owner, stepId: step.id, on });
  const command = overRows(editor, rows, make, switchName(on));
  if (command) editor.session.run(command);
}

/** Switches all steps on the bench off, or, when none is on, on. */
export function switchAll(editor: Editor): void {
  const { session, selection } = editor;
  const on = selection.rows.every((row) => rowOn(row) === false);
  const commands = selection.rows.flatMap(({ places }) =>
    places
      .filter(({ step }) => step.on !== on)
      .map(({ owner, step }): SingleCommand => ({ type: "step.set", owner, stepId: step.id, on }))
  );
  const command = asOne(commands, session.document, switchName(on)(commands.length));
  if (command) session.run(command);
}

/** Removes rows; the one that comes to the place of the last is chosen. */
export function removeRows(editor: Editor, gone: readonly Row[]): void {
  const { session, selection } = editor;
  const { rows } = selection;
  const left = rows.filter((row) => !gone.includes(row));
  const next = rows[rows.findLastIndex((row) => gone.includes(row)) + 1] ?? left[left.length - 1];
  const make: Make = ({ owner, step }) => ({ type: "step.remove", owner, stepId: step.id });
  const command = overRows(editor, gone, make, (steps) => `remove ${steps} steps`);
  if (command && session.run(command)) selection.stepId = next?.step.id ?? null;
}

/** Removes all steps on the bench. */
export function removeAll(editor: Editor): void {
  const { session, selection } = editor;
  const commands = selection.subject.owners
    .filter((owner) => stepsOfOwner(session.document, owner).length > 0)
    .map((owner): SingleCommand => ({
      type: "chain.replace",
      owner,
      chainId: newId(),
      steps: [],
      source: ""
    }));
  const command = asOne(commands, session.document, `remove all steps of ${selection.title}`);
  if (command && session.run(command)) selection.stepId = null;
}

/** Moves a row to a place among the rows, in every chain that has it; beyond the ends it stays. */
export function moveRow(editor: Editor, row: Row, index: number): void {
  const { rows } = editor.selection;
  const now = rows.indexOf(row);
  const others = rows.filter((one) => one !== row);
  if (index < 0 || index > others.length || index === now) return;
  runRow(editor, row, ({ owner, step }) => ({
    type: "step.move",
    owner,
    stepId: step.id,
    before: stepBefore(others, index, owner)
  }));
}

/** Settings with which a fresh step of an effect sounds on such an owner. */
function freshParams(effect: EffectDescription, { table }: Owner): Params {
  const flows = table === "tracks" || table === "project";
  return { ...defaultParams(effect), ...(flows ? effect.streamsWith?.params : {}) };
}

/** Where a fresh step goes: before a row, at the end when left out; `alone`: only in the first of the selected clips. */
interface StepPlace {
  readonly before?: number;
  readonly alone?: boolean;
}

/** Adds a step to all that is on the bench; with a range selected it treats the part that lies in it. */
export function addStep(
  editor: Editor,
  effect: EffectDescription,
  params: Params = {},
  { before, alone = false }: StepPlace = {}
): void {
  const { session, selection } = editor;
  const { subject, rows, range } = selection;
  const owners = alone ? [subject.owner] : subject.owners;
  const steps: Step[] = [];
  const doc = session.document;
  const within = owners.map((owner) => range && spanWithin(doc, owner, range));
  // A range that has nothing of what is on the bench is not meant.
  const meant = within.some((span) => span);
  const commands = owners.flatMap((owner, i): SingleCommand[] => {
    const span = within[i];
    if (meant && !span) return [];
    const step: Step = {
      ...newStep(newId(), effect.id, { ...freshParams(effect, owner), ...params }),
      span: span ? { from: span.from, to: span.to } : null
    };
    steps.push(step);
    const place = before === undefined ? null : stepBefore(rows, before, owner);
    return [{ type: "step.add", owner, chainId: newId(), step, before: place }];
  });
  const command = asOne(commands, doc, `add ${effect.name} to ${commands.length} clips`);
  if (!command || !session.run(command)) return;
  selection.stepId = steps[0]?.id ?? null;
  // What was found stays in sight while it is mended.
  if (editor.panel !== "examine") editor.panel = null;
}

function keptOf(step: Step, effect: EffectDescription): Params {
  const old = effectOf(step.effect);
  return keptParams(old, completeParams(old, step.params), effect);
}

/** Puts another effect in the place of a row: what both have by the same name keeps its value. */
export function replaceRow(editor: Editor, row: Row, effect: EffectDescription): void {
  const { session, selection } = editor;
  let first: string | undefined;
  const commands = row.places.flatMap(({ owner, step }): SingleCommand[] => {
    const fresh: Step = {
      ...newStep(newId(), effect.id, { ...freshParams(effect, owner), ...keptOf(step, effect) }),
      on: step.on,
      span: step.span
    };
    first ??= fresh.id;
    return [
      { type: "step.add", owner, chainId: newId(), step: fresh, before: step.id },
      { type: "step.remove", owner, stepId: step.id }
    ];
  });
  const name = `replace ${effectOf(row.step.effect).name} by ${effect.name}`;
  const command = asOne(commands, session.document, name);
  if (command && session.run(command)) selection.stepId = first ?? null;
}

/** Lets a row treat the selected range only. */
export function treatRange({ session, selection }: Editor, { places }: Row): void {
  const { range } = selection;
  const steps = places.map(({ owner, step }) => ({ owner, stepId: step.id }));
  if (range) session.run({ type: "span.set", steps, range: { from: range.from, to: range.to } });
}

/** Lets a row treat all of its sound. */
export function treatAll({ session }: Editor, { places }: Row): void {
  const steps = places.map(({ owner, step }) => ({ owner, stepId: step.id }));
  session.run({ type: "span.set", steps, range: null });
}
