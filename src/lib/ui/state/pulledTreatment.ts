// Effects, saved chains and saved fades that are pulled from the shelf onto the bench or onto a clip.
import { findEffect } from "$lib/core/effects/registry";
import { applyPreset } from "./editing";
import type { Editor } from "./editor.svelte";
import { giveFade } from "./shaping";
import { addStep } from "./steps";

const EFFECT = "application/x-wring-effect";
const PRESET = "application/x-wring-preset";
const FADE = "application/x-wring-fade";

/** Takes an effect along with the pointer. */
export function pullEffect(event: DragEvent, effectId: string): void {
  event.dataTransfer?.setData(EFFECT, effectId);
}

/** Takes a saved chain along with the pointer. */
export function pullPreset(event: DragEvent, presetId: string): void {
  event.dataTransfer?.setData(PRESET, presetId);
}

/** Whether what is pulled is a treatment. Call in `dragover`. */
export function pullsTreatment({ dataTransfer }: DragEvent): boolean {
  return Boolean(dataTransfer?.types.includes(EFFECT) || dataTransfer?.types.includes(PRESET));
}

/**
 * Gives what was pulled to all that is on the bench.
 * @param before number of the row that an effect comes before; at the end when left out
 */
export function dropTreatment(editor: Editor, { dataTransfer }: DragEvent, before?: number): void {
  const effect = findEffect(dataTransfer?.getData(EFFECT) ?? "");
  if (effect) addStep(editor, effect, {}, before === undefined ? {} : { before });
  const preset = editor.presets.list.find(({ id }) => id === dataTransfer?.getData(PRESET));
  if (preset) applyPreset(editor, preset);
}

/** Takes a saved fade along with the pointer. */
export function pullFade(event: DragEvent, fadeId: string): void {
  event.dataTransfer?.setData(FADE, fadeId);
}

/** Whether what is pulled is a fade. Call in `dragover`. */
export function pullsFade({ dataTransfer }: DragEvent): boolean {
  return Boolean(dataTransfer?.types.includes(FADE));
}

/** Gives a fade that was pulled to the selected clips, at one of their edges. */
export function dropFade(editor: Editor, { dataTransfer }: DragEvent, edge: "in" | "out"): void {
  const fade = editor.fadePresets.list.find(({ id }) => id === dataTransfer?.getData(FADE));
  if (fade) giveFade(editor, edge, fade.shape);
}
