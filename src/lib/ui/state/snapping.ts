// Edges snap to what lies near them on the screen.
import { sectionsInOrder } from "$lib/core/session/lookup";
import type { Clip } from "$lib/core/session/schema";
import { snap, type Snapped } from "$lib/core/session/snap";
import { gridStep } from "$lib/core/units/timeFormat";
import type { Editor } from "./editor.svelte";

/** An edge snaps to what is as near as this. */
const REACH_PIXELS = 8;
/** Least distance of two lines of the grid. */
const GRID_PIXELS = 14;

/** Zero crossings are taken within this of a cut, seconds. */
const ZERO_SECONDS = 0.005;

/** Whether cuts are to lie at zero crossings. */
export function cutsAtZero({ preferences }: Editor): boolean {
  return preferences.snapping && preferences.snapTo.includes("zero");
}

/** The zero crossing of a clip's sound that is nearest to a cut; null: none within reach. */
export function crossingNear({ sounds, sampleRate }: Editor, clip: Clip, at: number): Promise<number | null> {
  return sounds.zeroCrossing([clip], at, Math.round(ZERO_SECONDS * sampleRate));
}

/** Where a cut through a clip is to lie: at the nearest zero crossing of its sound where that is asked for, else where it is. */
export async function cutPlace(editor: Editor, clip: Clip, at: number): Promise<number> {
  return cutsAtZero(editor) ? ((await crossingNear(editor, clip, at)) ?? at) : at;
}

export interface SnapWish {
  /** Frames of the edges that may snap, where they would come to lie. */
  readonly edges: readonly number[];
  /** Clips that are pulled. */
  readonly except?: ReadonlySet<string>;
  /** Whether it is suspended, by the key that is held. */
  readonly free: boolean;
}

/** What edges snap to; shown as a line until the pull is over. Null: nothing near. */
export function snapEdges(editor: Editor, { edges, except = new Set(), free }: SnapWish): Snapped | null {
  const { preferences, view, session, clips, transport, pull, sampleRate } = editor;
  if (!preferences.snapping || free) {
    pull.snapped = null;
    return null;
  }
  const found = snap(
    {
      kinds: new Set(preferences.snapTo),
      lanes: clips,
      tracks: [...session.document.values("tracks")].map((track) => track.id),
      except,
      sections: sectionsInOrder(session.document),
      playhead: Math.round(transport.position),
      grid: gridStep(GRID_PIXELS * view.framesPerPixel, sampleRate, preferences.time)
    },
    edges,
    REACH_PIXELS * view.framesPerPixel
  );
  pull.snapped = found?.to ?? null;
  return found;
}
