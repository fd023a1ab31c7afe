// Everything that can be done, by name: the field of actions, the keys and the buttons use the same list.
import { nextOrder, programmeEnd, tracksInOrder } from "$lib/core/session/lookup";
import { newChain, newClip, newStep, newTrack } from "$lib/core/session/make";
import { resampledLength } from "$lib/core/audio/resampler";
import type { FadeCurve } from "$lib/core/audio/fadeCurve";
import type { Recording, RecipeStep, Step } from "$lib/core/session/schema";
import { defaultParams, type EffectDescription } from "$lib/core/effects/description";
import { recordingsOf } from "$lib/core/effects/registry";
import type { PresetView } from "$lib/api/types";
import type { Editor } from "./editor.svelte";

/** A fresh id for a part of a document. */
export function newId(): string {
  return crypto.randomUUID();
}

/** Steps of a preset with fresh ids. */
export function freshSteps(recipe: readonly RecipeStep[]): Step[] {
  return recipe.map((step) => ({ ...step, params: { ...step.params }, id: newId() }));
}

/** Adds a recording as a clip: to a track at a position, else to the selected clip's track, or the first, at the playhead. */
export function addClip(editor: Editor, recording: Recording, trackId?: string, start?: number): void {
  const { session, selection, transport } = editor;
  const known = trackId ?? selection.found?.track.id ?? tracksInOrder(session.document)[0]?.id;
  const fresh = known === undefined ? newTrack(newId(), "Track 1", 1) : undefined;
  const track = known ?? fresh?.id ?? "";
  const clip = newClip(newId(), track, recording, Math.round(start ?? transport.position));
  const add = { type: "clip.add" as const, clip, chain: null };
  const made = fresh
    ? session.run({
        type: "compound",
        name: `add ${clip.name}`,
        commands: [{ type: "track.add", track: fresh }, add]
      })
    : session.run(add);
  if (made) selection.choose(clip.id);
}

/** Applies a preset to the selected clip; the recordings that it needs come along. */
export function applyPreset(editor: Editor, preset: PresetView): void {
  const { session, selection } = editor;
  const { clip } = selection;
  if (!clip) return;
  const replace = {
    type: "chain.replace" as const,
    owner: { table: "clips" as const, id: clip.id },
    chainId: newId(),
    steps: freshSteps(preset.steps),
    source: preset.name
  };
  const wanted = new Set(preset.steps.flatMap(recordingsOf));
  const missing = preset.recordings.filter(
    (r) => wanted.has(r.id) && !session.document.get("recordings", r.id)
  );
  const made =
    missing.length === 0
      ? session.run(replace)
      : session.run({
          type: "compound",
          name: `apply ${preset.name} to ${clip.name}`,
          commands: [
            ...missing.map((r) => {
              const frames = resampledLength(r.frames, r.sampleRate, editor.sampleRate);
              return { type: "recording.add" as const, recording: { ...r, frames } };
            }),
            replace
          ]
        });
  if (made) selection.stepId = selection.clip?.steps[0]?.id ?? null;
}

export function addTrack(editor: Editor): void {
  const { session } = editor;
  const name = `Track ${session.document.size("tracks") + 1}`;
  session.run({ type: "track.add", track: newTrack(newId(), name, nextOrder(session.document)) });
}

export function addStep(editor: Editor, effect: EffectDescription): void {
  const { clip } = editor.selection;
  if (!clip) return;
  const step = newStep(newId(), effect.id, defaultParams(effect));
  const owner = { table: "clips" as const, id: clip.id };
  if (editor.session.run({ type: "step.add", owner, chainId: newId(), step, before: null }))
    editor.selection.stepId = step.id;
}

/** Sets a fade of all selected clips. */
export function setFade(editor: Editor, edge: "in" | "out", length: number, curve: FadeCurve): void {
  const { clipIds } = editor.selection;
  if (clipIds.length > 0)
    editor.session.run({
      type: "clip.fade",
      clipIds: [...clipIds],
      edge,
      fade: { length: Math.max(0, Math.round(length)), shape: { curve } }
    });
}

function splitAtPlayhead(editor: Editor): void {
  const { clip } = editor.selection;
  if (!clip) return;
  editor.session.run({
    type: "clip.split",
    clipId: clip.id,
    at: editor.transport.position,
    newId: newId(),
    chainId: newId(),
    stepIds: clip.steps.map(() => newId())
  });
}

function duplicate(editor: Editor): void {
  const found = editor.selection.found;
  if (!found) return;
  const { session, selection } = editor;
  const { steps } = found.clip;
  const clip = session.document.get("clips", found.clip.id);
  if (!clip) return;
  const chain = steps.length > 0 ? newChain(newId(), freshSteps(steps)) : null;
  const copy = { ...clip, id: newId(), start: clip.start + clip.length, chain: chain?.id ?? null };
  if (session.run({ type: "clip.add", clip: copy, chain })) selection.choose(copy.id);
}

function removeSelected(editor: Editor): void {
  const { clipIds } = editor.selection;
  if (clipIds.length > 0 && editor.session.run({ type: "clip.remove", clipIds: [...clipIds] }))
    editor.selection.clear();
}

function setRangeEdge(editor: Editor, edge: "from" | "to"): void {
  const at = editor.transport.position;
  const { range } = editor.selection;
  const second = editor.sampleRate;
  const next =
    edge === "from"
      ? { from: at, to: range && range.to > at ? range.to : at + second }
      : { from: range && range.from < at ? range.from : Math.max(0, at - second), to: at };
  if (next.to > next.from) editor.selection.range = next;
}

function rangeOfSelection(editor: Editor): void {
  const { clip } = editor.selection;
  if (clip) editor.selection.range = { from: clip.start, to: clip.start + clip.length };
}

export interface Action {
  readonly id: string;
  readonly name: string;
  /** Keys as tinykeys writes them. */
  readonly keys?: string;
  readonly enabled: (editor: Editor) => boolean;
  readonly run: (editor: Editor) => void;
}

const always = () => true;
const withClip = (editor: Editor) => editor.selection.clip !== undefined;
const restorable = (editor: Editor) => Boolean(editor.selection.clip?.render);
const treated = (editor: Editor) => (editor.selection.clip?.steps.length ?? 0) > 0;

export const actions: readonly Action[] = [
  { id: "play", name: "Play or stop", keys: "Space", enabled: always, run: (e) => e.transport.toggle() },
  { id: "start", name: "Go to the start", keys: "Home", enabled: always, run: (e) => e.transport.locate(0) },
  {
    id: "end",
    name: "Go to the end",
    keys: "End",
    enabled: always,
    run: (e) => e.transport.locate(programmeEnd(e.session.document))
  },
  {
    id: "loop",
    name: "Loop the range on or off",
    keys: "Shift+Space",
    enabled: always,
    run: (e) => (e.transport.looping = !e.transport.looping)
  },
  {
    id: "rangeFrom",
    name: "Range begins at the playhead",
    keys: ",",
    enabled: always,
    run: (e) => setRangeEdge(e, "from")
  },
  {
    id: "rangeTo",
    name: "Range ends at the playhead",
    keys: ".",
    enabled: always,
    run: (e) => setRangeEdge(e, "to")
  },
  { id: "rangeClip", name: "Range over the selected clip", enabled: withClip, run: rangeOfSelection },
  {
    id: "noRange",
    name: "Remove the range",
    enabled: (e) => e.selection.range !== null,
    run: (e) => (e.selection.range = null)
  },
  {
    id: "listen",
    name: "Switch between before and after",
    keys: "b",
    enabled: withClip,
    run: (e) => e.transport.switchListening()
  },
  {
    id: "equal",
    name: "Compare at equal loudness, on or off",
    keys: "q",
    enabled: withClip,
    run: (e) => (e.transport.equalLoudness = !e.transport.equalLoudness)
  },
  {
    id: "undo",
    name: "Undo",
    keys: "$mod+z",
    enabled: (e) => e.session.undoName !== null,
    run: (e) => e.session.undo()
  },
  {
    id: "redo",
    name: "Redo",
    keys: "$mod+Shift+z",
    enabled: (e) => e.session.redoName !== null,
    run: (e) => e.session.redo()
  },
  { id: "render", name: "Render the clip…", keys: "r", enabled: treated, run: (e) => (e.dialog = "render") },
  {
    id: "restore",
    name: "Restore the clip",
    enabled: restorable,
    run: (e) => e.selection.clip && e.session.run({ type: "clip.restore", clipIds: [e.selection.clip.id] })
  },
  {
    id: "measure",
    name: "Measure and normalize the clip…",
    keys: "n",
    enabled: withClip,
    run: (e) => (e.dialog = "measure")
  },
  { id: "preset", name: "Save the chain as a preset…", enabled: treated, run: (e) => (e.dialog = "preset") },
  {
    id: "clearChain",
    name: "Remove all steps of the clip",
    enabled: treated,
    run: (e) =>
      e.selection.clip &&
      e.session.run({
        type: "chain.replace",
        owner: { table: "clips", id: e.selection.clip.id },
        chainId: newId(),
        steps: [],
        source: ""
      })
  },
  { id: "split", name: "Split the clip at the playhead", keys: "x", enabled: withClip, run: splitAtPlayhead },
  { id: "duplicate", name: "Duplicate the clip", keys: "d", enabled: withClip, run: duplicate },
  { id: "remove", name: "Remove the selected clips", keys: "Delete", enabled: withClip, run: removeSelected },
  {
    id: "mute",
    name: "Mute or unmute the selected clips",
    keys: "m",
    enabled: withClip,
    run: (e) =>
      e.session.run({ type: "clip.set", clipIds: [...e.selection.clipIds], muted: !e.selection.clip?.muted })
  },
  { id: "track", name: "Add a track", keys: "t", enabled: always, run: addTrack },
  {
    id: "section",
    name: "Name the range as a section…",
    enabled: (e) => e.selection.range !== null,
    run: (e) => (e.dialog = "section")
  },
  { id: "zoomIn", name: "Zoom in", keys: "+", enabled: always, run: (e) => e.view.zoom(2) },
  { id: "zoomOut", name: "Zoom out", keys: "-", enabled: always, run: (e) => e.view.zoom(0.5) },
  { id: "zoomAll", name: "Show the whole programme", keys: "a", enabled: always, run: (e) => e.showAll() },
  {
    id: "zoomClip",
    name: "Zoom to the selected clip",
    keys: "z",
    enabled: withClip,
    run: (e) =>
      e.selection.clip &&
      e.view.show(e.selection.clip.start, e.selection.clip.start + e.selection.clip.length)
  },
  { id: "taller", name: "Draw waveforms taller", enabled: always, run: (e) => e.view.taller(2) },
  { id: "lower", name: "Draw waveforms lower", enabled: always, run: (e) => e.view.taller(0.5) },
  {
    id: "shelf",
    name: "Show or hide the shelf",
    keys: "s",
    enabled: always,
    run: (e) => (e.shelfOpen = !e.shelfOpen)
  },
  {
    id: "export",
    name: "Export the mix…",
    keys: "e",
    enabled: (e) => programmeEnd(e.session.document) > 0,
    run: (e) => (e.dialog = "export")
  },
  {
    id: "shortcuts",
    name: "Show all keys",
    keys: "Shift+?",
    enabled: always,
    run: (e) => (e.dialog = "shortcuts")
  },
  {
    id: "actions",
    name: "Find an action",
    keys: "$mod+k",
    enabled: always,
    run: (e) => (e.dialog = "actions")
  }
];

/** The action of an id. */
export function actionOf(id: string): Action {
  const action = actions.find((a) => a.id === id);
  if (!action) throw new Error(`There is no action "${id}".`);
  return action;
}

/** "$mod+Shift+z" → "Ctrl Shift Z". */
export function keyText(keys: string): string {
  return keys
    .split("+")
    .map((k) => (k === "" ? "+" : k === "$mod" ? "Ctrl" : k.length === 1 ? k.toUpperCase() : k))
    .filter((k, i, all) => !(k === "+" && all[i - 1] === "+"))
    .join(" ");
}
