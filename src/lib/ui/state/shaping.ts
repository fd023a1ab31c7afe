// Edges and fades of clips, pulled by some frames or put at the playhead.
import type { Command, SingleCommand } from "$lib/core/session/commands";
import type { DropRule } from "$lib/core/session/drop";
import type { Clip, Fade } from "$lib/core/session/schema";
import type { Editor } from "./editor.svelte";

export type ClipEdge = "left" | "right" | "fadeIn" | "fadeOut";

/** What edges and fades of clips are pulled with. */
export interface ShapeGround {
  /** Frames of a clip's recording. */
  readonly framesOf: (clip: Clip) => number;
  readonly rule?: DropRule | undefined;
  readonly seed: string;
  /** Shape of fades that are new. */
  readonly newFade?: Fade["shape"];
}

/** A clip's window with an edge pulled by some frames, as far as its recording reaches. */
export function trimmedWindow(
  { start, offset, length }: Clip,
  edge: "left" | "right",
  by: number,
  most: number
): Pick<Clip, "start" | "offset" | "length"> {
  if (edge === "right") return { start, offset, length: Math.max(1, Math.min(most - offset, length + by)) };
  const moved = Math.max(-Math.min(offset, start), Math.min(length - 1, by));
  return { start: start + moved, offset: offset + moved, length: length - moved };
}

function named(commands: SingleCommand[], name: string): Command | null {
  const [only] = commands;
  if (commands.length <= 1) return only ?? null;
  return { type: "compound", name, commands };
}

/** The command that an edge of a clip, pulled by some frames, asks for; others that are selected follow. */
export function shapeCommand(
  clip: Clip,
  edge: ClipEdge,
  by: number,
  ground: ShapeGround,
  others: readonly Clip[] = []
): Command | null {
  const all = [clip, ...others.filter((other) => other.id !== clip.id)];
  if (edge === "left" || edge === "right") {
    const trims = all.map((one, i): SingleCommand => ({
      type: "clip.trim",
      clipId: one.id,
      ...trimmedWindow(one, edge, by, ground.framesOf(one)),
      ...(ground.rule ? { rule: ground.rule, seed: `${ground.seed}-${i}` } : {})
    }));
    return named(trims, `trim ${all.length} clips`);
  }
  const side = edge === "fadeIn" ? "in" : "out";
  const own = edge === "fadeIn" ? clip.fadeIn : clip.fadeOut;
  const wanted = Math.max(0, own.length + (edge === "fadeIn" ? by : -by));
  return fadesCommand(all, side, (one) => fadeOf(one, side, wanted, ground.newFade));
}

/** A clip's fade with another length: no longer than beside its other one; a new one gets the shape of new fades. */
export function fadeOf(clip: Clip, edge: "in" | "out", wanted: number, newShape?: Fade["shape"]): Fade {
  const [own, other] = edge === "in" ? [clip.fadeIn, clip.fadeOut] : [clip.fadeOut, clip.fadeIn];
  const length = Math.max(0, Math.min(clip.length - other.length, Math.round(wanted)));
  return { length, shape: own.length === 0 && newShape ? newShape : own.shape };
}

/** One fade for each of some clips, as one command. */
export function fadesCommand(
  clips: readonly Clip[],
  edge: "in" | "out",
  fade: (clip: Clip) => Fade
): SingleCommand | null {
  const [only] = clips;
  if (clips.length === 1 && only) return { type: "clip.fade", clipIds: [only.id], edge, fade: fade(only) };
  if (clips.length === 0) return null;
  return { type: "clip.fades", fades: clips.map((clip) => ({ clipId: clip.id, edge, fade: fade(clip) })) };
}

/** Length of a fade that a shape is given to where there was none, in seconds. */
const NEW_FADE_SECONDS = 0.5;

/** Gives a shape to a fade of all selected clips; clips without that fade get a short one. */
export function giveFade(
  { session, selection, sampleRate }: Editor,
  edge: "in" | "out",
  shape: Fade["shape"]
): void {
  const clips = selection.clipIds.flatMap((id) => session.document.get("clips", id) ?? []);
  const command = fadesCommand(clips, edge, (clip) => {
    const own = edge === "in" ? clip.fadeIn : clip.fadeOut;
    const short = Math.min(NEW_FADE_SECONDS * sampleRate, clip.length / 3);
    return own.length > 0 ? { ...own, shape } : { ...fadeOf(clip, edge, short), shape };
  });
  if (command) session.run(command);
}

/** What edges are pulled with, as one works now. */
export function shapeGround({ session, preferences }: Editor, seed: string, rule?: DropRule): ShapeGround {
  return {
    framesOf: (clip) => session.document.get("recordings", clip.content.recordingId)?.frames ?? 0,
    rule: rule ?? preferences.rule,
    seed,
    newFade: preferences.newFade
  };
}

/** Whether the playhead lies within a clip that is selected. */
export function playheadWithin(editor: Editor): boolean {
  return clipsUnder(editor).length > 0;
}

/** The selected clips in which the playhead lies. */
function clipsUnder({ selection, transport, session }: Editor): Clip[] {
  const at = transport.position;
  return selection.clipIds.flatMap((id) => {
    const clip = session.shown.get("clips", id);
    return clip && at > clip.start && at < clip.start + clip.length ? [clip] : [];
  });
}

/** Has the selected clips begin, or end, at the playhead. What is cut off stays in their recordings. */
export function trimToPlayhead(editor: Editor, edge: "left" | "right"): void {
  const at = Math.round(editor.transport.position);
  const clips = clipsUnder(editor);
  const ground = shapeGround(editor, crypto.randomUUID());
  const trims = clips.map((clip, i): SingleCommand => {
    const by = at - (edge === "left" ? clip.start : clip.start + clip.length);
    const window = trimmedWindow(clip, edge, by, ground.framesOf(clip));
    return { type: "clip.trim", clipId: clip.id, ...window, rule: ground.rule, seed: `${ground.seed}-${i}` };
  });
  const command = named(trims, `trim ${clips.length} clips`);
  if (command) editor.session.run(command);
}

/** Fades of the selected clips in which the playhead lies: in to it, or out from it. */
export function fadeToPlayhead(editor: Editor, edge: "in" | "out"): void {
  const at = Math.round(editor.transport.position);
  const command = fadesCommand(clipsUnder(editor), edge, (clip) =>
    fadeOf(
      clip,
      edge,
      edge === "in" ? at - clip.start : clip.start + clip.length - at,
      editor.preferences.newFade
    )
  );
  if (command) editor.session.run(command);
}

/**
 * Fades by the range, across tracks at once: over a clip's start it fades in to the range's end, over its end it fades out from the range's
 * start; in the middle both.
 */
export function fadeToRange(editor: Editor): void {
  const { selection, preferences, session } = editor;
  const { range } = selection;
  if (!range) return;
  const fades = selection.targets.flatMap(({ clip }) => {
    const end = clip.start + clip.length;
    const [overStart, overEnd] = [range.from <= clip.start, range.to >= end];
    const inTo = Math.min(range.to, end) - clip.start;
    const outFrom = end - Math.max(range.from, clip.start);
    const middle = !overStart && !overEnd;
    const wants: { edge: "in" | "out"; length: number }[] =
      overStart && overEnd
        ? []
        : [
            ...(overStart || middle
              ? [{ edge: "in" as const, length: middle ? range.from - clip.start : inTo }]
              : []),
            ...(overEnd || middle
              ? [{ edge: "out" as const, length: middle ? end - range.to : outFrom }]
              : [])
          ];
    return wants.map(({ edge, length }) => {
      const own = edge === "in" ? clip.fadeIn : clip.fadeOut;
      const shape = own.length === 0 ? preferences.newFade : own.shape;
      return { clipId: clip.id, edge, fade: { length, shape } };
    });
  });
  if (fades.length > 0) session.run({ type: "clip.fades", fades });
}

/** Takes the fades of the selected clips away. */
export function removeFades({ selection, session }: Editor): void {
  const fades = selection.targets.flatMap(({ clip }) =>
    (["in", "out"] as const).map((edge) => ({
      clipId: clip.id,
      edge,
      fade: { length: 0, shape: edge === "in" ? clip.fadeIn.shape : clip.fadeOut.shape }
    }))
  );
  if (fades.length > 0) session.run({ type: "clip.fades", fades });
}
