// Crossfades at the cuts of what is selected.
import { joinsIn, joinsWith, type Join } from "$lib/core/session/joins";
import { pairKey } from "$lib/core/session/drop";
import type { Editor } from "./editor.svelte";
import { Preferences } from "./preferences.svelte";

/**
 * Where the selected clips meet others: with a range, the joins in it; of one clip, its ends; of several, where they meet each other. With
 * nothing selected, the join next to the playhead.
 */
export function joinsOfSelection({ selection, clips, transport, session }: Editor): Join[] {
  const { range, clipIds, ids } = selection;
  if (range)
    return selection.tracks.flatMap((track) =>
      joinsIn(clips, track, range.from, range.to).filter(
        ({ left, right }) => right.start <= range.to && left.start + left.length >= range.from
      )
    );
  const found = new Map<string, Join>();
  for (const id of clipIds) {
    const clip = session.shown.get("clips", id);
    for (const join of clip ? joinsWith(clips, clip) : []) found.set(pairKey(join.left.id, join.right.id), join);
  }
  const all = [...found.values()];
  if (clipIds.length > 1) return all.filter(({ left, right }) => ids.has(left.id) && ids.has(right.id));
  if (clipIds.length === 1) return all;
  const at = Math.round(transport.position);
  return [...session.shown.values("tracks")].flatMap((track) =>
    joinsIn(clips, track.id, at - 1, at + 1).filter(
      ({ left, right }) => right.start <= at + 1 && left.start + left.length >= at - 1
    )
  );
}

/** Crossfades them, each by the correlation that is measured of its two sides. */
export async function crossfadeJoins(editor: Editor, joins = joinsOfSelection(editor)): Promise<void> {
  if (joins.length === 0) return;
  const length = Math.max(2, Preferences.frames(editor.preferences.crossMs, editor.sampleRate));
  const measured = await editor.sounds.correlations(joins, length);
  editor.session.run({
    type: "crossfade.set",
    pairs: joins.map(({ left, right }) => {
      const correlation = measured[pairKey(left.id, right.id)];
      return { left: left.id, right: right.id, length, ...(correlation === undefined ? {} : { correlation }) };
    })
  });
}

/** Takes them away: the clips meet with a hard cut. */
export function removeCrossfades(editor: Editor): void {
  const pairs = joinsOfSelection(editor)
    .filter((join) => join.overlap > 0)
    .map(({ left, right }) => ({ left: left.id, right: right.id }));
  if (pairs.length > 0) editor.session.run({ type: "crossfade.remove", pairs });
}
