// Crossfades at the cuts of what is selected.
import type { SingleCommand } from "$lib/core/session/commands";
import { joinOf, joinsIn, joinsWith, type Join } from "$lib/core/session/joins";
import { pairKey, type Correlations, type Drop } from "$lib/core/session/drop";
import { notices } from "../shared/notices.svelte";
import type { BestPlace } from "$lib/core/joins/bestPlace";
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
    for (const join of clip ? joinsWith(clips, clip) : [])
      found.set(pairKey(join.left.id, join.right.id), join);
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

/** More overlaps than these are not listened to when clips are dropped, and none longer than this: it would be waited for. */
const MOST_OVERLAPS = 20;
const MOST_WAIT_MS = 500;

/** Correlations of the sounds that a drop makes overlap; undefined where there are none, too many, or the sound does not come soon. */
export async function measuredOverlaps(
  editor: Editor,
  drop: Drop | undefined
): Promise<Correlations | undefined> {
  const others = [...(drop?.changed ?? [])];
  const joins = (drop?.placed ?? []).flatMap((clip) =>
    others.flatMap((other) => {
      const join = joinOf(clip, other);
      return join && join.overlap > 0 ? [join] : [];
    })
  );
  if (joins.length === 0 || joins.length > MOST_OVERLAPS) return undefined;
  const longest = Math.max(...joins.map((join) => join.overlap));
  const soon = new Promise<undefined>((resolve) => setTimeout(() => resolve(undefined), MOST_WAIT_MS));
  return Promise.race([editor.sounds.correlations(joins, Math.min(longest, editor.sampleRate)), soon]);
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
      return {
        left: left.id,
        right: right.id,
        length,
        ...(correlation === undefined ? {} : { correlation })
      };
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

/** Moves joins by the set amount; both clips of each stay where they are, and meet elsewhere. */
export function moveJoins(editor: Editor, direction: 1 | -1): void {
  const { session, preferences, sampleRate } = editor;
  const by = direction * Math.max(1, Preferences.frames(preferences.nudgeMs, sampleRate));
  const commands = joinsOfSelection(editor).map(({ left, right }): SingleCommand => ({
    type: "crossfade.move",
    left: left.id,
    right: right.id,
    by
  }));
  const [only] = commands;
  if (only)
    session.run(
      commands.length === 1 ? only : { type: "compound", name: `move ${commands.length} joins`, commands }
    );
}

/** A join is looked for this far to both sides, seconds. */
const REACH_SECONDS = 0.25;

/** What puts a crossfade of a length at its best place within a reach; undefined when there is none. */
export async function bestCrossfade(
  editor: Editor,
  join: Join,
  length: number,
  reach: number
): Promise<{ readonly commands: SingleCommand[]; readonly place: BestPlace } | undefined> {
  const within = roomOf(editor, join, reach, length);
  const place = within > 0 ? await editor.sounds.bestPlace(join, length, within) : null;
  if (!place) return undefined;
  const pair = { left: join.left.id, right: join.right.id };
  const correlation = Math.max(-1, Math.min(1, place.correlation));
  const set: SingleCommand = { type: "crossfade.set", pairs: [{ ...pair, length, correlation }] };
  const move: SingleCommand = { type: "crossfade.move", ...pair, by: place.by };
  return { place, commands: place.by === 0 ? [set] : [move, set] };
}

/** Moves joins to where it is quiet, the waveforms match and nothing begins; their crossfades go along, or are made. */
export async function findBestPlace(editor: Editor, joins = joinsOfSelection(editor)): Promise<void> {
  const { session, sampleRate, preferences } = editor;
  const reach = Math.round(REACH_SECONDS * sampleRate);
  const commands: SingleCommand[] = [];
  const told: string[] = [];
  for (const join of joins) {
    const { left, right, overlap } = join;
    const length = Math.max(overlap, Preferences.frames(preferences.crossMs, sampleRate));
    const best = await bestCrossfade(editor, join, length, reach);
    if (!best) {
      told.push(
        `${left.name} and ${right.name} have no better place: something begins, or a recording ends, all around.`
      );
      continue;
    }
    commands.push(...best.commands);
    const { by, levelDb, correlation } = best.place;
    const ms = ((by / sampleRate) * 1000).toFixed(0);
    told.push(
      `${left.name} and ${right.name}: ${ms} ms, at ${levelDb.toFixed(0)} dBFS, ρ ${correlation.toFixed(2)}.`
    );
  }
  if (commands.length > 0)
    session.run({ type: "compound", name: "move the join to its best place", commands });
  for (const text of told) notices.news(text);
}

/** How far a join can be moved to both sides before one of its recordings ends or a clip is used up. */
function roomOf({ session }: Editor, { left, right, overlap }: Join, reach: number, length: number): number {
  const frames = session.document.get("recordings", left.content.recordingId)?.frames ?? 0;
  const half = Math.ceil(length / 2) - (overlap >> 1);
  return Math.min(
    reach,
    frames - left.offset - left.length - half,
    right.offset - half,
    right.length - overlap - length - right.fadeOut.length,
    left.length - overlap - length - left.fadeIn.length
  );
}
