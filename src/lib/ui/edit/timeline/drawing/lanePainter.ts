// Paints lanes, one canvas each: those that changed, once a frame. It reads plain values: whoever knows of a change says which lane is to be
// painted.
import type { ResolvedClip } from "$lib/core/session/lookup";
import { TILE_WIDTH } from "$lib/waveform/tile";
import { AHEAD, type Stretch, type Tiles } from "$lib/waveform/tiles";
import { CARD_LESS, CARD_TOP, GRIP } from "../layout";
import {
  cardOf,
  drawCard,
  drawFades,
  drawGhost,
  drawNames,
  NAME_REACH,
  type Card,
  type CardStyle
} from "./card";
import { currentPalette } from "../../../shared/palette";
import { sized } from "../../../shared/sizedCanvas";

/** What a lane shows, in CSS pixels. */
export interface LaneView
  extends
    Pick<CardStyle, "doc" | "left" | "framesPerPixel" | "width" | "taller" | "moving">,
    Pick<CardStyle, "selected" | "chosenStep" | "broken" | "computing"> {
  readonly height: number;
  /** Its clips in sight, by when they begin. */
  readonly clips: readonly ResolvedClip[];
  /** Clips that are being pulled: drawn elsewhere meanwhile. */
  readonly pulled: ReadonlySet<string>;
  readonly silent: boolean;
}

interface Lane {
  readonly canvas: HTMLCanvasElement;
  readonly view: () => LaneView;
}

/** Clips that are narrower are drawn as one rectangle a column. */
const LEAST_WITH_CARD = 3;
/** Clips that are narrower, and stand close, have no room for a name. */
const LEAST_WITH_NAME = 20;

/** Stretches of columns, those that touch as one. */
function merged(parts: readonly (readonly [number, number])[]): (readonly [number, number])[] {
  const out: [number, number][] = [];
  for (const [from, to] of [...parts].sort((a, b) => a[0] - b[0])) {
    const last = out.at(-1);
    if (last && from <= last[1]) last[1] = Math.max(last[1], to);
    else out.push([from, to]);
  }
  return out;
}

/** Draws clips of a lane into a context. */
export function drawClips(
  style: CardStyle,
  clips: readonly ResolvedClip[],
  pulled: ReadonlySet<string>
): void {
  const { context, palette, top, height, from, to, ratio } = style;
  let filled = -1;
  const cards: Card[] = [];
  for (const clip of clips) {
    const card = cardOf(style, clip);
    if (pulled.has(clip.id)) {
      drawGhost(style, card);
      continue;
    }
    const last = cards[cards.length - 1];
    if (last) last.until = card.x0;
    if (card.x0 >= to) break;
    if (card.x1 - card.x0 < LEAST_WITH_CARD) {
      if (card.x1 <= Math.max(filled, from)) continue;
      context.fillStyle = style.selected.has(clip.id) ? palette.ochre : palette.slate;
      context.fillRect(card.x0, top, card.x1 - card.x0, height);
      filled = card.x1;
      continue;
    }
    if (card.x1 > from) drawCard(style, card);
    cards.push(card);
  }
  for (const card of cards) if (card.x1 > from) drawFades(style, card);
  if (cards.some((card) => card.x1 - card.x0 >= LEAST_WITH_NAME * ratio || card.until - card.x0 > 40 * ratio))
    drawNames(style, cards);
}

/** What was painted last, when it can be shifted. */
interface Painted {
  /** Device pixels from the timeline's start to the lane's left edge. */
  readonly place: number;
  readonly framesPerPixel: number;
}

export class LanePainter {
  readonly #lanes = new Map<string, Lane>();
  readonly #dirty = new Set<string>();
  /** Lanes that have only been scrolled since they were painted. */
  readonly #scrolled = new Set<string>();
  /** Stretches of lanes whose tiles have come. */
  readonly #parts = new Map<string, Stretch[]>();
  readonly #painted = new Map<string, Painted>();
  #frame = 0;

  constructor(private readonly tiles: Tiles<ImageBitmap>) {}

  /** Takes in a lane that is in sight; returns what takes it out again. */
  attach(lane: string, canvas: HTMLCanvasElement, view: () => LaneView): () => void {
    this.#lanes.set(lane, { canvas, view });
    this.mark(lane);
    return () => {
      this.#lanes.delete(lane);
      this.#dirty.delete(lane);
      this.#scrolled.delete(lane);
      this.#parts.delete(lane);
      this.#painted.delete(lane);
      this.tiles.forget(lane);
    };
  }

  /** A lane is to be painted with the next frame. */
  mark(lane: string): void {
    if (!this.#lanes.has(lane)) return;
    this.#dirty.add(lane);
    this.#soon();
  }

  /** A lane shows another stretch of time, and nothing else has changed: what stays in sight is shifted. */
  scrolled(lane: string): void {
    if (!this.#lanes.has(lane)) return;
    this.#scrolled.add(lane);
    this.#soon();
  }

  /** A stretch of a lane is to be painted anew: a tile has come that was missing in it, or its clips have changed. */
  arrived(lane: string, missing: Stretch): void {
    if (!this.#lanes.has(lane)) return;
    const parts = this.#parts.get(lane);
    if (parts) parts.push(missing);
    else this.#parts.set(lane, [missing]);
    this.#soon();
  }

  markAll(): void {
    for (const lane of this.#lanes.keys()) this.mark(lane);
  }

  #soon(): void {
    this.#frame ||= requestAnimationFrame(() => this.#paint());
  }

  #paint(): void {
    this.#frame = 0;
    const ratio = window.devicePixelRatio || 1;
    const lanes = new Set([...this.#dirty, ...this.#scrolled, ...this.#parts.keys()]);
    const whole = this.#dirty.size === this.#lanes.size;
    if (whole) this.tiles.forget(AHEAD);
    for (const id of lanes) {
      const lane = this.#lanes.get(id);
      if (lane) this.#paintLane(id, lane, ratio);
    }
    this.#dirty.clear();
    this.#scrolled.clear();
    this.#parts.clear();
    this.tiles.settle(this.#screenBytes());
  }

  #paintLane(id: string, { canvas, view }: Lane, ratio: number): void {
    const lane = view();
    const context = sized(canvas, lane.width, lane.height, ratio);
    const framesPerPixel = lane.framesPerPixel / ratio;
    // At whole pixels, so that what is there can be shifted.
    const place = Math.round(lane.left / framesPerPixel);
    const style = {
      ...lane,
      context,
      palette: currentPalette(),
      ratio,
      tiles: this.tiles,
      lane: id,
      left: place * framesPerPixel,
      framesPerPixel,
      width: canvas.width,
      top: Math.round(CARD_TOP * ratio),
      height: Math.round((lane.height - CARD_LESS) * ratio)
    };
    const regions = this.#regions(id, lane, style, place);
    const seen = { from: style.left, to: style.left + style.width * framesPerPixel };
    if (regions === null) this.tiles.forget(id);
    else {
      this.tiles.forget(id, seen);
      const tile = TILE_WIDTH * framesPerPixel;
      this.tiles.forget(AHEAD, { from: seen.from - tile, to: seen.to + tile });
    }
    for (const [from, to] of regions ?? [[0, style.width] as const]) {
      if (to <= from) continue;
      context.save();
      context.beginPath();
      context.rect(from, 0, to - from, canvas.height);
      context.clip();
      this.#paintRegion({ ...style, from, to }, lane, canvas.height);
      context.restore();
    }
    this.#painted.set(id, { place, framesPerPixel });
  }

  /** Shifts what can be shifted; returns the columns that must be painted. null: all. */
  #regions(
    id: string,
    lane: LaneView,
    { context, width, framesPerPixel, ratio }: Omit<CardStyle, "from" | "to">,
    place: number
  ): readonly (readonly [number, number])[] | null {
    const last = this.#painted.get(id);
    if (this.#dirty.has(id) || last?.framesPerPixel !== framesPerPixel) return null;
    const by = place - last.place;
    if (Math.abs(by) > width / 2) return null;
    const parts = merged(
      (this.#parts.get(id) ?? []).map(
        ({ from, to }) =>
          [
            Math.max(0, Math.floor(from / framesPerPixel - place)),
            Math.min(width, Math.ceil(to / framesPerPixel - place))
          ] as const
      )
    );
    if (by === 0) return parts;
    context.globalCompositeOperation = "copy";
    context.drawImage(context.canvas, -by, 0);
    context.globalCompositeOperation = "source-over";
    const [first] = lane.clips;
    // A name that is kept in sight stays where it is: there it is painted anew.
    const kept = first && first.start < Math.max(place, last.place) * framesPerPixel;
    const sticky = kept ? Math.min(width, Math.ceil((NAME_REACH + 20) * ratio)) : 0;
    // Grips that are kept in sight stand at both edges.
    const grip = Math.ceil((GRIP + 2) * ratio);
    return merged(
      by > 0
        ? [[0, sticky], [Math.max(sticky, width - by - grip), width], ...parts]
        : [[0, Math.max(sticky, grip - by)], [width - grip, width], ...parts]
    );
  }

  #paintRegion(style: CardStyle, { clips, pulled, silent }: LaneView, height: number): void {
    const { context, palette, from, to, ratio } = style;
    const line = Math.round(ratio);
    context.fillStyle = silent ? palette.sunk : palette.paper;
    context.fillRect(from, 0, to - from, height);
    context.fillStyle = palette.rule;
    context.fillRect(from, height - line, to - from, line);
    // Names of clips before the region may reach into it.
    const first = style.left + (from - NAME_REACH * ratio) * style.framesPerPixel;
    drawClips(
      style,
      clips.filter((clip) => clip.start + clip.length > first),
      pulled
    );
  }

  /** Bytes of the tiles that fill the lanes. */
  #screenBytes(): number {
    let bytes = 0;
    for (const { canvas } of this.#lanes.values())
      bytes += (Math.ceil(canvas.width / TILE_WIDTH) + 1) * TILE_WIDTH * canvas.height * 4;
    return bytes;
  }

  close(): void {
    cancelAnimationFrame(this.#frame);
    this.#lanes.clear();
  }
}
