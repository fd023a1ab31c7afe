// Paints lanes, one canvas each: those that changed, once a frame. It reads plain values: whoever knows of a change says which lane is to be
// painted.
import type { ResolvedClip } from "$lib/core/session/lookup";
import { TILE_WIDTH } from "$lib/waveform/tile";
import type { Tiles } from "$lib/waveform/tiles";
import { CARD_LESS, CARD_TOP } from "../layout";
import { cardOf, drawCard, drawFades, drawGhost, drawName, type Card, type CardStyle } from "./card";
import type { Palette } from "./palette";

/** What a lane shows, in CSS pixels. */
export interface LaneView
  extends
    Pick<CardStyle, "doc" | "left" | "framesPerPixel" | "width" | "taller" | "moving">,
    Pick<CardStyle, "selected" | "chosenStep" | "broken"> {
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

/** Gives a canvas a size in CSS pixels; returns its context, scaled by nothing. */
export function sized(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
  ratio: number
): CanvasRenderingContext2D {
  const [w, h] = [Math.max(1, Math.round(width * ratio)), Math.max(1, Math.round(height * ratio))];
  if (canvas.width !== w) canvas.width = w;
  if (canvas.height !== h) canvas.height = h;
  const context = canvas.getContext("2d", { alpha: canvas.dataset.over !== undefined });
  if (!context) throw new Error("This browser cannot draw.");
  context.imageSmoothingEnabled = false;
  return context;
}

/** Draws clips of a lane into a context. */
export function drawClips(
  style: CardStyle,
  clips: readonly ResolvedClip[],
  pulled: ReadonlySet<string>
): void {
  const { context, palette, top, height, width } = style;
  let filled = -1;
  const cards: Card[] = [];
  for (const clip of clips) {
    const card = cardOf(style, clip);
    if (pulled.has(clip.id)) {
      drawGhost(style, card);
      continue;
    }
    if (card.x1 <= 0 || card.x0 >= width) continue;
    if (card.x1 - card.x0 < LEAST_WITH_CARD) {
      if (card.x1 <= filled) continue;
      context.fillStyle = style.selected.has(clip.id) ? palette.ochre : palette.slate;
      context.fillRect(card.x0, top, card.x1 - card.x0, height);
      filled = card.x1;
      continue;
    }
    drawCard(style, card);
    cards.push(card);
  }
  cards.forEach((card, i) => {
    drawFades(style, card);
    card.until = cards[i + 1]?.x0 ?? width;
    drawName(style, card);
  });
}

export class LanePainter {
  readonly #lanes = new Map<string, Lane>();
  readonly #dirty = new Set<string>();
  #frame = 0;

  constructor(
    private readonly tiles: Tiles<ImageBitmap>,
    private readonly palette: () => Palette
  ) {}

  /** Takes in a lane; returns what takes it out again. */
  attach(lane: string, canvas: HTMLCanvasElement, view: () => LaneView): () => void {
    this.#lanes.set(lane, { canvas, view });
    return () => {
      this.#lanes.delete(lane);
      this.#dirty.delete(lane);
      this.tiles.forget(new Set([lane]));
    };
  }

  /** A lane is to be painted with the next frame. */
  mark(lane: string): void {
    this.#dirty.add(lane);
    this.#frame ||= requestAnimationFrame(() => this.#paint());
  }

  markAll(): void {
    for (const lane of this.#lanes.keys()) this.mark(lane);
  }

  #paint(): void {
    this.#frame = 0;
    const ratio = window.devicePixelRatio || 1;
    this.tiles.forget(this.#dirty);
    for (const id of this.#dirty) {
      const lane = this.#lanes.get(id);
      if (lane) this.#paintLane(id, lane, ratio);
    }
    this.#dirty.clear();
    this.tiles.settle(this.#screenBytes());
  }

  #paintLane(id: string, { canvas, view }: Lane, ratio: number): void {
    const lane = view();
    const context = sized(canvas, lane.width, lane.height, ratio);
    const palette = this.palette();
    context.fillStyle = lane.silent ? palette.sunk : palette.paper;
    context.fillRect(0, 0, canvas.width, canvas.height);
    context.fillStyle = palette.rule;
    context.fillRect(0, canvas.height - Math.round(ratio), canvas.width, Math.round(ratio));
    drawClips(
      {
        ...lane,
        context,
        palette,
        ratio,
        tiles: this.tiles,
        lane: id,
        framesPerPixel: lane.framesPerPixel / ratio,
        width: canvas.width,
        top: Math.round(CARD_TOP * ratio),
        height: Math.round((lane.height - CARD_LESS) * ratio)
      },
      lane.clips,
      lane.pulled
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
