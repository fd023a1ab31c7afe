// Laying out what is selected: splitting, copying, moving by keys, taking away.
import { applyCommand, type SingleCommand } from "$lib/core/session/commands";
import { windowed } from "$lib/core/session/clipWindow";
import type { Correlations, DropRule } from "$lib/core/session/drop";
import { endOf } from "$lib/core/session/lanes";
import { CommandRefused } from "$lib/core/session/refused";
import { tracksInOrder } from "$lib/core/session/lookup";
import { newChain } from "$lib/core/session/make";
import { stepsOfChain } from "$lib/core/session/owners";
import type { Clip } from "$lib/core/session/schema";
import type { Target } from "$lib/core/session/selection";
import type { Clipboard } from "./clipboard";
import { freshSteps, newId } from "./editing";
import type { Editor } from "./editor.svelte";
import { movingOf, moveCommand } from "./moving";
import { Preferences } from "./preferences.svelte";
import { cutPlace } from "./snapping";

const blendOf = ({ preferences, sampleRate }: Editor) => Preferences.frames(preferences.blendMs, sampleRate);

function ends(parts: readonly { readonly from: number; readonly to: number }[]): {
  from: number;
  to: number;
} {
  return {
    from: Math.min(...parts.map((part) => part.from)),
    to: Math.max(...parts.map((part) => part.to))
  };
}

/** The clips under the playhead that a cut is about: the selected ones; when none of them lies there, those on their tracks; with none selected, all. */
function underPlayhead({ selection, session, transport }: Editor): Clip[] {
  const at = Math.round(transport.position);
  const under = (clip: Clip) => at > clip.start && at < clip.start + clip.length;
  const chosen = selection.clipIds.flatMap((id) => session.shown.get("clips", id) ?? []);
  const own = chosen.filter(under);
  if (own.length > 0) return own;
  // After a split the left piece stays chosen: the next place along the track is split as well.
  const tracks = new Set(chosen.map((clip) => clip.track));
  return [...session.shown.values("clips")].filter(
    (clip) => under(clip) && (chosen.length === 0 || tracks.has(clip.track))
  );
}

export function canSplit(editor: Editor): boolean {
  return underPlayhead(editor).length > 0;
}

export async function splitAtPlayhead(editor: Editor): Promise<void> {
  const at = Math.round(editor.transport.position);
  const clips = underPlayhead(editor);
  const places = await Promise.all(clips.map((clip) => cutPlace(editor, clip, at)));
  const cuts = clips.map((clip, i) => ({ clipId: clip.id, at: [places[i] ?? at] }));
  if (cuts.length > 0) editor.session.run({ type: "clip.cut", cuts, blend: 0, seed: newId() });
}

/** Whether a range cuts through something. */
export function cutsSomething({ selection }: Editor): boolean {
  return selection.range !== null && selection.targets.some((target) => !target.whole);
}

function cutsOf(targets: readonly Target[]): { clipId: string; at: number[] }[] {
  return targets.filter((t) => !t.whole).map(({ clip, from, to }) => ({ clipId: clip.id, at: [from, to] }));
}

/** Cuts at both ends of the range. */
export function splitAtRange(editor: Editor): void {
  const cuts = cutsOf(editor.selection.targets);
  if (cuts.length > 0) editor.session.run({ type: "clip.cut", cuts, blend: 0, seed: newId() });
}

/**
 * Does something to what is selected, as one edit: to whole clips as they are, to parts after cutting them out, with a blend at each cut.
 * @returns ids of the clips that it was done to; undefined when it was refused
 */
export function withTargets(
  editor: Editor,
  name: string,
  commandsOf: (clipIds: string[]) => SingleCommand[]
): readonly string[] | undefined {
  const { session, selection } = editor;
  const { targets, range } = selection;
  if (targets.length === 0) return undefined;
  const cuts = cutsOf(targets);
  if (cuts.length === 0 || !range) {
    const ids = targets.map((target) => target.clip.id);
    const commands = commandsOf(ids);
    const [only] = commands;
    const done =
      commands.length === 1 && only ? session.run(only) : session.run({ type: "compound", name, commands });
    return done ? ids : undefined;
  }
  const cut: SingleCommand = { type: "clip.cut", cuts, blend: blendOf(editor), seed: newId() };
  const ids = idsWithin(editor, cut, targets);
  return ids && session.run({ type: "compound", name, commands: [cut, ...commandsOf(ids)] })
    ? ids
    : undefined;
}

/** Ids of the clips that a cut leaves where its targets lie. */
function idsWithin(
  { session }: Editor,
  cut: SingleCommand,
  targets: readonly Target[]
): string[] | undefined {
  try {
    const { document, changes } = applyCommand(session.document, cut);
    const parts = changes.flatMap(({ table, id }) =>
      table === "clips" ? (document.get("clips", id) ?? []) : []
    );
    return targets.flatMap(({ clip, from, to, whole }) => {
      if (whole) return [clip.id];
      const middle = (from + to) / 2;
      const part = parts.find(
        (p) =>
          p.track === clip.track &&
          p.content.recordingId === clip.content.recordingId &&
          p.start - p.offset === clip.start - clip.offset &&
          p.start <= middle &&
          middle < p.start + p.length
      );
      return part ? [part.id] : [];
    });
  } catch (error) {
    if (error instanceof CommandRefused) return undefined;
    throw error;
  }
}

/** Makes a clip of its own of each part that the range cuts out. */
export function isolate(editor: Editor): void {
  const cuts = cutsOf(editor.selection.targets);
  if (cuts.length === 0) return;
  const cut: SingleCommand = { type: "clip.cut", cuts, blend: blendOf(editor), seed: newId() };
  const ids = idsWithin(editor, cut, editor.selection.targets);
  if (ids && editor.session.run(cut)) editor.selection.chooseAll(ids);
}

export function muteTargets(editor: Editor): void {
  const [first] = editor.selection.targets;
  if (!first) return;
  const muted = !first.clip.muted;
  withTargets(editor, muted ? "mute the range" : "unmute the range", (clipIds) => [
    { type: "clip.set", clipIds, muted }
  ]);
}

/** Takes the selected clips, or the parts of them in the range, away. */
export function removeTargets(editor: Editor, closeGap: boolean): void {
  const { session, selection } = editor;
  const { targets, range } = selection;
  if (targets.length === 0) return;
  if (!range) {
    const clipIds = targets.map((target) => target.clip.id);
    if (session.run({ type: "clip.remove", clipIds, ...(closeGap ? { closeGap } : {}) })) selection.clear();
    return;
  }
  const chosen = selection.clipIds.length > 0 && !range.tracks;
  const done = session.run({
    type: "range.remove",
    trackIds: [...new Set(targets.map((target) => target.clip.track))],
    clipIds: chosen ? targets.map((target) => target.clip.id) : null,
    from: range.from,
    to: range.to,
    closeGap,
    blend: blendOf(editor),
    seed: newId()
  });
  if (done && closeGap) {
    selection.range = null;
    editor.transport.locate(range.from);
  }
}

/** Stretches of clips, with the steps of their chains. */
function partsOf({ session }: Editor, stretches: readonly Pick<Target, "clip" | "from" | "to">[]) {
  return stretches.map(({ clip, from, to }) => ({
    clip: windowed(clip, from, to),
    steps: stepsOfChain(session.shown, clip.chain)
  }));
}

export function copyTargets(editor: Editor): void {
  const { selection } = editor;
  const { targets } = selection;
  if (targets.length === 0) return;
  editor.clipboard = { parts: partsOf(editor, targets), ...ends(targets) };
}

/** A new clip that sounds like another, with a chain of its own. */
export interface Copy {
  readonly clip: Clip;
  readonly chain: ReturnType<typeof newChain> | null;
}

/** Copies of parts, moved on by some frames and tracks, each with ids of its own. */
function copies(editor: Editor, { parts }: Pick<Clipboard, "parts">, by: number, lanes: number): Copy[] {
  const tracks = tracksInOrder(editor.session.document).map((track) => track.id);
  return parts.flatMap(({ clip, steps }) => {
    const track = tracks[Math.min(tracks.length - 1, Math.max(0, tracks.indexOf(clip.track) + lanes))];
    if (track === undefined) return [];
    const chain = steps.length > 0 ? newChain(newId(), freshSteps(steps)) : null;
    const start = Math.max(0, clip.start + by);
    return [{ clip: { ...clip, id: newId(), track, start, group: null, chain: chain?.id ?? null }, chain }];
  });
}

/** Copies of clips, where those lie. */
export function copiesOf(editor: Editor, clips: readonly Clip[]): Copy[] {
  const whole = clips.map((clip) => ({ clip, from: clip.start, to: endOf(clip) }));
  return copies(editor, { parts: partsOf(editor, whole) }, 0, 0);
}

/** Puts copies in where they are wanted, by a rule. */
export function dropCopies(
  editor: Editor,
  made: readonly Copy[],
  wanted: readonly Clip[],
  rule: DropRule,
  correlations?: Correlations
): void {
  const clips = made.map(({ clip, chain }, i) => ({ clip: wanted[i] ?? clip, chain }));
  insert(editor, clips, "copy", rule, correlations);
}

function insert(
  editor: Editor,
  clips: Copy[],
  what: string,
  rule: DropRule = editor.preferences.rule,
  correlations?: Correlations
): boolean {
  const { session, selection } = editor;
  if (clips.length === 0) return false;
  const measured = correlations ? { correlations: { ...correlations } } : {};
  const done = session.run({ type: "clip.insert", clips, rule, seed: newId(), what, ...measured });
  if (done) {
    selection.range = null;
    selection.chooseAll(clips.map(({ clip }) => clip.id));
  }
  return done;
}

/** Puts what was copied at the playhead: on the tracks from which it came, or from the track on that is on the bench. */
export function paste(editor: Editor): void {
  const { clipboard, selection, session, transport } = editor;
  if (!clipboard) return;
  const { owner } = selection.subject;
  const order = tracksInOrder(session.document).map((track) => track.id);
  const top = Math.min(...clipboard.parts.map(({ clip }) => order.indexOf(clip.track)));
  const lanes = owner.table === "tracks" ? order.indexOf(owner.id) - top : 0;
  insert(editor, copies(editor, clipboard, Math.round(transport.position) - clipboard.from, lanes), "paste");
}

/** Copies of what is selected, one behind the other. */
export function repeat(editor: Editor, times: number): void {
  const { selection } = editor;
  const { targets } = selection;
  if (targets.length === 0) return;
  const { from, to } = ends(targets);
  const parts = partsOf(editor, targets);
  const all = Array.from({ length: times }, (_, i) => copies(editor, { parts }, (i + 1) * (to - from), 0));
  insert(editor, all.flat(), times === 1 ? "duplicate" : `repeat ${times} times:`);
}

/** Times that what is selected can be repeated whole before a frame. */
export function timesUntil({ selection }: Editor, frame: number): number {
  if (selection.targets.length === 0) return 0;
  const { from, to } = ends(selection.targets);
  return Math.max(0, Math.floor((frame - to) / (to - from)));
}

/** Moves the selected clips by the set amount. */
export function nudge(editor: Editor, direction: 1 | -1): void {
  const { session, selection, preferences, sampleRate } = editor;
  const frames = direction * Math.max(1, Preferences.frames(preferences.nudgeMs, sampleRate));
  const command = moveCommand(
    movingOf(session.document, selection.clipIds),
    { frames, lanes: 0 },
    preferences.rule,
    newId()
  );
  if (command) session.run(command);
}

/** How far clips can be slipped: as far as the recording of each reaches. */
export function possibleSlip({ session }: Editor, clips: readonly Clip[], by: number): number {
  let slip = by;
  for (const clip of clips) {
    const most = session.document.get("recordings", clip.content.recordingId)?.frames ?? 0;
    slip = Math.max(-clip.offset, Math.min(most - clip.offset - clip.length, slip));
  }
  return slip;
}

/** Moves the sound inside the windows of the selected clips by the set amount. */
export function slip(editor: Editor, direction: 1 | -1): void {
  const { session, selection, preferences, sampleRate } = editor;
  const clips = movingOf(session.document, selection.clipIds).clips;
  const by = possibleSlip(
    editor,
    clips,
    direction * Math.max(1, Preferences.frames(preferences.nudgeMs, sampleRate))
  );
  if (by !== 0) session.run({ type: "clip.slip", clipIds: clips.map((clip) => clip.id), by });
}

export function group(editor: Editor, together: boolean): void {
  const { session, selection } = editor;
  session.run({ type: "clip.set", clipIds: [...selection.clipIds], group: together ? newId() : null });
}

/** Selects every clip that begins at the playhead or later. */
export function chooseAfterPlayhead({ session, selection, transport }: Editor): void {
  const at = Math.round(transport.position);
  const later = [...session.shown.values("clips")].filter((clip) => clip.start >= at);
  selection.chooseAll(later.sort((a, b) => a.start - b.start).map((clip) => clip.id));
}
