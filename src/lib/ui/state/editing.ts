// What people do to a project, as commands: with fresh ids, at the playhead, to what is selected.
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import { nextOrder, tracksInOrder } from "$lib/core/session/lookup";
import { atRate, newClip, newTrack } from "$lib/core/session/make";
import type { FadeShape, Recording, RecipeStep, Step } from "$lib/core/session/schema";
import { recordingsOf } from "$lib/core/effects/registry";
import type { PresetView } from "$lib/api/presets";
import { notices } from "../shared/notices.svelte";
import type { Editor } from "./editor.svelte";
import { fadeOf, fadesCommand } from "./shaping";
import { trackOf } from "./target";

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
  const rule = editor.preferences.rule;
  const add = {
    type: "clip.insert" as const,
    clips: [{ clip, chain: null }],
    rule,
    seed: newId(),
    what: "add"
  };
  const made = fresh
    ? session.run({
        type: "compound",
        name: `add ${clip.name}`,
        commands: [{ type: "track.add", track: fresh }, add]
      })
    : session.run(add);
  if (!made) return;
  selection.choose(clip.id);
  editor.view.reveal(clip.start, clip.start + clip.length);
}

/** Applies a preset to all that is on the bench; the recordings that it needs come along. */
export function applyPreset(editor: Editor, preset: PresetView): void {
  const { session, selection } = editor;
  const { owners } = selection.subject;
  const wanted = new Set(preset.steps.flatMap(recordingsOf));
  const missing = preset.recordings.filter(
    (r) => wanted.has(r.id) && !session.document.get("recordings", r.id)
  );
  const commands: SingleCommand[] = [
    ...missing.map((r) => ({ type: "recording.add" as const, recording: atRate(r, editor.sampleRate) })),
    ...owners.map((owner) => ({
      type: "chain.replace" as const,
      owner,
      chainId: newId(),
      steps: freshSteps(preset.steps),
      source: preset.name
    }))
  ];
  const command = asOne(commands, session.document, `apply ${preset.name} to ${selection.title}`);
  if (!command || !session.run(command)) return;
  const asks = selection.rows.find(({ step }) => step.params.source === "ask");
  selection.stepId = (asks ?? selection.rows[0])?.step.id ?? null;
  if (asks)
    notices.news(
      `"${preset.name}" asks for a noise profile: select a stretch with noise alone and learn it.`
    );
}

export function addTrack(editor: Editor): void {
  const { session, view } = editor;
  const name = `Track ${session.document.size("tracks") + 1}`;
  const track = newTrack(newId(), name, nextOrder(session.document));
  if (session.run({ type: "track.add", track })) view.track = track.id;
}

/** Sets a fade of all selected clips; a part of it that is left out stays as each has it. */
export function setFade(
  editor: Editor,
  edge: "in" | "out",
  change: { length?: number; shape?: FadeShape }
): void {
  const { selection, session } = editor;
  const clips = selection.clipIds.flatMap((id) => session.document.get("clips", id) ?? []);
  const command = fadesCommand(clips, edge, (clip) => {
    const own = edge === "in" ? clip.fadeIn : clip.fadeOut;
    const fade =
      change.length === undefined ? own : fadeOf(clip, edge, change.length, editor.preferences.newFade);
    return { ...fade, shape: change.shape ?? fade.shape };
  });
  if (command) session.run(command);
}

export function setRangeEdge(editor: Editor, edge: "from" | "to"): void {
  const at = editor.transport.position;
  const { range } = editor.selection;
  const second = editor.sampleRate;
  const next =
    edge === "from"
      ? { from: at, to: range && range.to > at ? range.to : at + second }
      : { from: range && range.from < at ? range.from : Math.max(0, at - second), to: at };
  if (next.to > next.from) editor.selection.range = next;
}

export function rangeOfSelection(editor: Editor): void {
  const clips = editor.selection.clipIds.flatMap((id) => editor.session.shown.get("clips", id) ?? []);
  if (clips.length === 0) return;
  const from = Math.min(...clips.map((clip) => clip.start));
  editor.selection.range = { from, to: Math.max(...clips.map((clip) => clip.start + clip.length)) };
}

/** Moves the track of the menu or of the selection by one place. */
export function moveTrack(editor: Editor, by: 1 | -1): void {
  const track = trackOf(editor);
  if (!track) return;
  const order = tracksInOrder(editor.session.document).map(({ id }) => id);
  const at = order.indexOf(track.id) + by;
  if (at < 0 || at >= order.length) return;
  const before = by < 0 ? order[at] : order[at + 1];
  editor.session.run({ type: "track.move", trackId: track.id, before: before ?? null });
}
