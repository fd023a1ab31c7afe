// Renders of what is selected: clips, or a range, for which clips are cut.
import type { NewRenders } from "$lib/api/renders";
import type { Editor } from "./editor.svelte";
import { newId } from "./editing";

export interface Rendering {
  readonly what: "range" | "clip" | "recording";
  readonly into: NewRenders["into"];
  readonly upTo: number | null;
  readonly handles: number | "all";
  readonly tail: number | "auto";
  readonly shared: boolean;
  readonly name: string | null;
}

/** Cuts the targets at the ends of the range, where they reach beyond it. Returns the clips inside. */
function cutAtRange({ session, selection }: Editor): string[] {
  const { range, targets } = selection;
  if (!range) return targets.map(({ clip }) => clip.id);
  const tracks = new Set(targets.map(({ clip }) => clip.track));
  const cuts = targets.flatMap(({ clip }) => {
    const at = [range.from, range.to].filter(
      (place) => place > clip.start && place < clip.start + clip.length
    );
    return at.length > 0 ? { clipId: clip.id, at } : [];
  });
  const whole = new Set(targets.map(({ clip }) => clip.id));
  const before = new Set([...session.document.values("clips")].map((clip) => clip.id));
  if (cuts.length > 0 && !session.run({ type: "clip.cut", cuts, blend: 0, seed: newId() })) return [];
  return [...session.document.values("clips")]
    .filter((clip) => tracks.has(clip.track) && (whole.has(clip.id) || !before.has(clip.id)))
    .filter((clip) => clip.start >= range.from && clip.start + clip.length <= range.to)
    .map((clip) => clip.id);
}

/** Orders the renders. */
export async function renderSelection(editor: Editor, wanted: Rendering): Promise<void> {
  const { what, into, name, ...rest } = wanted;
  const clipIds = what === "range" ? cutAtRange(editor) : editor.selection.targets.map(({ clip }) => clip.id);
  if (clipIds.length === 0) return;
  const { range } = editor.selection;
  if (what === "range" && range) editor.selection.chooseRange(range, clipIds);
  const order: NewRenders = into === "one" ? { into, clipIds, name } : { into, clipIds, name, ...rest };
  await editor.jobs.startRenders(order);
}
