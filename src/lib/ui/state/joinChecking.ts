// The join check as one works with it: going from pop to pop, hearing and mending them.
import type { Pop } from "$lib/core/joins/check";
import type { SingleCommand } from "$lib/core/session/commands";
import { crossShape } from "$lib/core/session/clipWindow";
import { pairKey } from "$lib/core/session/drop";
import { joinsWith, type Join } from "$lib/core/session/joins";
import { bestCrossfade } from "./crossfading";
import { notices } from "../shared/notices.svelte";
import type { Editor } from "./editor.svelte";

/** Heard before a pop and behind it, seconds. */
const AROUND_SECONDS = 0.7;
/** Width of the list of pops, with some room. */
const PANEL_PIXELS = 420;
/** A mended join may be moved this far to where both sides match, seconds. */
const NEARBY_SECONDS = 0.05;
/** A zero crossing is looked for this far to both sides, seconds. */
const ZERO_REACH = 0.01;

/** Looks at all joins. */
export async function checkJoins(editor: Editor): Promise<void> {
  const { pops, sounds } = editor;
  if (pops.share !== null) return;
  pops.share = 0;
  try {
    pops.set(await sounds.check((share) => (pops.share = share)));
  } finally {
    pops.share = null;
  }
  showPop(editor);
}

/** Goes to another one, and shows it. */
export function stepPops(editor: Editor, by: 1 | -1): void {
  const { pops } = editor;
  const count = pops.found?.length ?? 0;
  if (count > 0) choosePop(editor, (pops.at + by + count) % count);
}

export function choosePop(editor: Editor, index: number): void {
  editor.pops.at = index;
  showPop(editor);
}

/** Brings the pop into sight, and selects its clip. */
function showPop(editor: Editor): void {
  const { current } = editor.pops;
  if (!current) return;
  const { view, selection, transport } = editor;
  selection.range = null;
  selection.choose(current.clipId);
  transport.locate(current.at);
  // The list of pops covers the right of the view.
  const x = view.x(current.at);
  if (x < 0 || x > view.width - PANEL_PIXELS) view.left = Math.max(0, current.at - view.frames / 4);
}

/** Plays what is around it. */
export function hearPop(editor: Editor): void {
  const { current } = editor.pops;
  if (!current) return;
  const around = Math.round(AROUND_SECONDS * editor.sampleRate);
  editor.transport.playStretch(Math.max(0, current.at - around), current.at + around);
}

/** Another clip that meets this one at its edge. */
function joinAt(editor: Editor, { clipId, edge, at }: Pop): Join | undefined {
  const clip = editor.session.document.get("clips", clipId);
  if (!clip) return undefined;
  return joinsWith(editor.clips, clip).find(({ left, right, overlap }) =>
    edge === "in"
      ? right.id === clipId && right.start === at
      : left.id === clipId && right.start + overlap === at
  );
}

/** What mends a pop by a short fade: where two clips meet a crossfade, at the best place nearby if there is one. */
async function mending(editor: Editor, pop: Pop): Promise<SingleCommand[]> {
  const clip = editor.session.document.get("clips", pop.clipId);
  if (!clip) return [];
  const join = joinAt(editor, pop);
  if (join) {
    const reach = Math.round(NEARBY_SECONDS * editor.sampleRate);
    const best = await bestCrossfade(editor, join, Math.max(join.overlap, pop.mend), reach);
    if (best) return best.commands;
    const length = Math.max(join.overlap, pop.mend);
    const measured = await editor.sounds.correlations([join], length);
    const correlation = measured[pairKey(join.left.id, join.right.id)] ?? 0;
    const pair = { left: join.left.id, right: join.right.id, length, correlation };
    return [{ type: "crossfade.set", pairs: [pair] }];
  }
  const shape = crossShape(0);
  return [{ type: "clip.fade", clipIds: [clip.id], edge: pop.edge, fade: { length: pop.mend, shape } }];
}

/** Mends these, as one edit. */
export async function mendPops(editor: Editor, pops: readonly Pop[]): Promise<void> {
  const commands: SingleCommand[] = [];
  for (const pop of pops) commands.push(...(await mending(editor, pop)));
  const [only] = commands;
  if (!only) return;
  const { session } = editor;
  const done =
    commands.length === 1
      ? session.run(only)
      : session.run({
          type: "compound",
          name: pops.length === 1 ? "mend a join" : `mend ${pops.length} joins`,
          commands
        });
  if (!done) return;
  editor.pops.without(pops);
  showPop(editor);
}

/** Moves the edge of the current one to where the sound crosses zero; where two clips meet, to where both do. */
export async function moveToZero(editor: Editor): Promise<void> {
  const { current: pop } = editor.pops;
  const clip = pop && editor.session.document.get("clips", pop.clipId);
  if (!pop || !clip) return;
  const join = joinAt(editor, pop);
  const reach = Math.round(ZERO_REACH * editor.sampleRate);
  const at = await editor.sounds.zeroCrossing(join ? [join.left, join.right] : [clip], pop.at, reach);
  if (at === null) {
    notices.fault(`There is no zero crossing within ${ZERO_REACH * 1000} ms of the cut.`);
    return;
  }
  const by = at - pop.at;
  if (by === 0) {
    notices.news("The cut is at a zero crossing already.");
    return;
  }
  const command: SingleCommand = join
    ? { type: "crossfade.move", left: join.left.id, right: join.right.id, by }
    : pop.edge === "in"
      ? {
          type: "clip.trim",
          clipId: clip.id,
          start: clip.start + by,
          offset: clip.offset + by,
          length: clip.length - by
        }
      : {
          type: "clip.trim",
          clipId: clip.id,
          start: clip.start,
          offset: clip.offset,
          length: clip.length + by
        };
  if (!editor.session.run(command)) return;
  editor.pops.without([pop]);
  showPop(editor);
}
