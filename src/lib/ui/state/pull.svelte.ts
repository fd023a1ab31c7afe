import type { Drop } from "$lib/core/session/drop";
import type { Clip } from "$lib/core/session/schema";
import type { SnapPoint } from "$lib/core/session/snap";
import type { Moving, Shift } from "./moving";

/** Clips that are being pulled over the lanes, and how far they have come. The document changes when they are let go. */
export interface Pulled {
  readonly moving: Moving;
  readonly ids: ReadonlySet<string>;
  readonly shift: Shift;
  /** What the rule of dropping does to others, where they are now. */
  readonly effect: Drop | null;
}

/** What a gesture says of itself, beside the pointer. */
export interface PullNote {
  readonly x: number;
  readonly y: number;
  readonly text: string;
}

export const NOTHING: ReadonlySet<string> = new Set();

/** What becomes of a track's clips on which others are dropped. */
export interface LaneEffect {
  /** The same for the same effect: a lane is painted anew when it changes. */
  readonly key: string;
  /** Clips that are gone, or lie elsewhere now. */
  readonly instead: ReadonlySet<string>;
  /** Those that changed, as they are. */
  readonly clips: readonly Clip[];
}

export const NO_EFFECT: LaneEffect = { key: "", instead: NOTHING, clips: [] };
const known = new WeakMap<Drop, ReadonlyMap<string, LaneEffect>>();

function effectsOf(drop: Drop): ReadonlyMap<string, LaneEffect> {
  let effects = known.get(drop);
  if (!effects) {
    const lanes = new Map<string, { instead: Set<string>; clips: Clip[]; key: string }>();
    const lane = (track: string) => {
      const found = lanes.get(track) ?? { instead: new Set(), clips: [], key: "" };
      lanes.set(track, found);
      return found;
    };
    for (const clip of [...drop.changed, ...drop.parts]) {
      const one = lane(clip.track);
      one.instead.add(clip.id);
      one.clips.push(clip);
      one.key += `${clip.id} ${clip.start} ${clip.length} ${clip.fadeIn.length} ${clip.fadeOut.length};`;
    }
    for (const { id, track } of drop.removed) {
      const one = lane(track);
      one.instead.add(id);
      one.key += `${id} gone;`;
    }
    known.set(drop, (effects = lanes));
  }
  return effects;
}

export class Pull {
  now = $state.raw<Pulled | null>(null);
  /** The clips alone: changes when a pull begins and when it ends. */
  readonly ids = $derived(this.now?.ids ?? NOTHING);
  note = $state.raw<PullNote | null>(null);
  /** The place that an edge has snapped to. */
  snapped = $state.raw<SnapPoint | null>(null);

  /** What a pull does to the clips of a track. */
  effectOn(track: string): LaneEffect {
    const effect = this.now?.effect;
    return (effect && effectsOf(effect).get(track)) ?? NO_EFFECT;
  }

  /** Nothing is pulled any more. */
  over(): void {
    this.now = null;
    this.note = null;
    this.snapped = null;
  }
}
