// A clip as a flat paper card: waveform, name, fades, spans, hem. All in device pixels.
import { curveOf } from "$lib/core/audio/envelope";
import { fadeGainAt } from "$lib/core/audio/fades";
import { ringFrames } from "$lib/core/render/ringOut";
import { partOf } from "$lib/core/render/soundPart";
import { clipState, type ClipState } from "$lib/core/session/clipState";
import type { ResolvedClip } from "$lib/core/session/lookup";
import { treatmentKinds } from "$lib/core/session/treatmentKinds";
import type { Tables } from "$lib/core/session/tables";
import type { Tiles } from "$lib/waveform/tiles";
import { heightOf } from "../../../state/gainLines";
import { GRIP, gripInSight, HEM, LEAST_WITH_ELEMENT, LEAST_WITH_GRIPS, NAME, waveBox } from "../layout";
import { COUNT_FONT, DIGIT, NAME_FONT } from "../../../shared/canvasFonts";
import { fitted } from "./names";
import { MARK_WIDTH, markPath, type Mark } from "./marks";
import { pixelOf, type Palette } from "../../../shared/palette";
import { drawWave } from "./wave";

/** What cards of a lane are drawn with. */
export interface CardStyle {
  readonly context: CanvasRenderingContext2D;
  readonly tiles: Tiles<ImageBitmap>;
  readonly doc: Tables;
  readonly palette: Palette;
  /** Device pixels of a CSS pixel. */
  readonly ratio: number;
  readonly lane: string;
  readonly left: number;
  /** Frames of a device pixel. */
  readonly framesPerPixel: number;
  /** Width of the lane, and height and upper edge of its cards, in device pixels. */
  readonly width: number;
  readonly height: number;
  readonly top: number;
  readonly taller: number;
  readonly moving: boolean;
  /** Columns [from, to) that are drawn: what lies outside of them is there already. */
  readonly from: number;
  readonly to: number;
  readonly selected: ReadonlySet<string>;
  readonly chosenStep: string | null;
  readonly broken: ReadonlyMap<string, "damaged" | "missing">;
  /** Clips that sound as they did until they are computed. */
  readonly computing: ReadonlySet<string>;
}

export interface Card {
  readonly clip: ResolvedClip;
  readonly state: ClipState;
  /** Whole pixels; they may lie outside of the view. */
  readonly x0: number;
  readonly x1: number;
  /** Where the next card of the lane begins: a name that does not fit may reach there. */
  until: number;
}

const DASH = 9;
const GAP = 5;
const SPAN_HEIGHT = 4;
/** Pixels of a name that a tab must win. */
const LEAST_GAIN = 12;

export function cardOf(style: CardStyle, clip: ResolvedClip): Card {
  const x0 = Math.round((clip.start - style.left) / style.framesPerPixel);
  const x1 = Math.round((clip.start + clip.length - style.left) / style.framesPerPixel);
  return { clip, state: clipState(clip), x0, x1: Math.max(x0 + 1, x1), until: style.width };
}

/** Colour of a clip's sound: treated or not. */
function soundColour({ clip, state }: Card, palette: Palette): string {
  return state === "rendered" || (state === "live" && clip.render !== null) ? palette.madder : palette.slate;
}

export function drawCard(style: CardStyle, card: Card): void {
  const { context, palette, ratio, top, height, selected } = style;
  const { clip, state, x0, x1 } = card;
  const chosen = selected.has(clip.id);
  const from = Math.max(style.from, x0);
  const to = Math.min(style.to, x1);
  if (clip.muted) context.globalAlpha = 0.5;
  context.fillStyle = palette.panel;
  context.fillRect(from, top, to - from, height);
  if (chosen) {
    context.fillStyle = palette.select;
    context.fillRect(from, top, to - from, height);
  }
  const wide = x1 - x0 >= LEAST_WITH_ELEMENT * ratio;
  const hemmed = state !== "untreated" && wide;
  const box = waveBox(height / ratio, hemmed);
  const wave = { top: top + Math.round(box.top * ratio), height: Math.round(box.height * ratio) };
  const colour = soundColour(card, palette);
  context.fillStyle = colour;
  context.fillRect(from, wave.top + (wave.height >> 1), to - from, 1);
  const { recordingId } = partOf(clip);
  drawWave(context, style.tiles, clip, style.doc.get("recordings", recordingId), {
    ...wave,
    lane: style.lane,
    left: style.left,
    framesPerPixel: style.framesPerPixel,
    from,
    to,
    taller: style.taller,
    colour: pixelOf(colour),
    moving: style.moving
  });
  if (hemmed) drawHem(style, card, from, to);
  else if (wide && partOf(clip).under) drawUnder(style, card);
  if (wide) drawSpans(style, card, wave.top + wave.height);
  drawBorder(style, card, chosen);
  if (clip.muted) context.globalAlpha = 1;
}

function drawBorder(
  { context, palette, ratio, top, height, from, to }: CardStyle,
  { x0, x1 }: Card,
  chosen: boolean
): void {
  const line = Math.max(1, Math.round((chosen ? 2 : 1) * ratio));
  if (x1 - x0 <= 3 * line) {
    context.fillStyle = chosen ? palette.ochre : palette.soft;
    context.fillRect(x0, top, 1, height);
    return;
  }
  context.strokeStyle = chosen ? palette.ochre : palette.soft;
  context.lineWidth = line;
  // Far outside of what is drawn nothing is stroked.
  const left = Math.max(x0, from - 2 * line);
  const right = Math.min(x1, to + 2 * line);
  context.strokeRect(left + line / 2, top + line / 2, right - left - line, height - line);
}

/** Farthest that a name reaches, in CSS pixels. */
export const NAME_REACH = 240;

/**
 * The names of clips. One that does not fit becomes a tab that reaches out into the free lane behind its clip; one whose clip begins out of
 * sight stays in sight.
 */
export function drawNames(style: CardStyle, cards: readonly Card[]): void {
  const { context, ratio } = style;
  context.save();
  context.scale(ratio, ratio);
  context.font = NAME_FONT;
  for (const card of cards) drawName(style, card);
  context.restore();
}

function drawName(style: CardStyle, { clip, x0, x1, until }: Card): void {
  const { context, palette, ratio, top, height, broken, selected } = style;
  const left = Math.max(x0, 0) / ratio;
  if (left > style.to / ratio || left + NAME_REACH < style.from / ratio) return;
  const word = broken.get(clip.recordingId);
  const waits = style.computing.has(clip.id) ? "(computing) " : "";
  const text = `${waits}${word ? `(${word}) ` : ""}${clip.muted ? "(muted) " : ""}${clip.name}`;
  const chosen = selected.has(clip.id);
  const from = left + 4 + (chosen && x1 - x0 > LEAST_WITH_GRIPS * ratio ? GRIP + 2 : 0);
  const room = Math.min(x1 / ratio - from - 3, NAME_REACH);
  const y = top / ratio;
  let name = fitted(context, text, room);
  if (name.text !== text) {
    const reaching = fitted(context, text, Math.min(until / ratio - from - 6, NAME_REACH));
    if (reaching.width > name.width + LEAST_GAIN) {
      name = reaching;
      const right = from + name.width + 3;
      context.fillStyle = palette.panel;
      context.fillRect(left + 1, y + 1, right - left - 1, NAME - 1);
      context.strokeStyle = chosen ? palette.ochre : palette.soft;
      context.lineWidth = 1;
      context.strokeRect(left + 0.5, y + 0.5, right - left, NAME);
    }
  } else if (waveBox(height / ratio, false).top < NAME) {
    // On the waveform it needs a plate.
    context.fillStyle = palette.panel;
    context.globalAlpha = 0.85;
    context.fillRect(from - 2, y + 1, name.width + 4, NAME - 1);
    context.globalAlpha = 1;
  }
  if (name.width === 0) return;
  context.fillStyle = word ? palette.madder : clip.muted ? palette.soft : palette.ink;
  context.fillText(name.text, from, y + 11.5);
}

/** Pixels of the strip that are left beside its signs, at least. */
const LEAST_STRIP = 14;

/** The signs that a card has room for: of the kinds of treatment, and that the chain is shared. */
function marksOf({ doc, ratio }: CardStyle, { clip, x0, x1 }: Card, digits: number): readonly Mark[] {
  const room = (x1 - x0) / ratio - digits * DIGIT - 10 - LEAST_STRIP;
  if (room < MARK_WIDTH) return NO_MARKS;
  const linked = clip.chain !== null && doc.uses("chains", clip.chain) > 1;
  const all: readonly Mark[] = [
    ...(linked ? (["linked"] as const) : NO_MARKS),
    ...(partOf(clip).under ? (["recording"] as const) : NO_MARKS),
    ...treatmentKinds(clip.steps)
  ];
  return all.slice(0, Math.floor(room / MARK_WIDTH));
}

const NO_MARKS: readonly Mark[] = [];

/** The sign of a recording's chain on a clip without steps of its own, on a plate at its foot: at its start, since another clip may lie over its end. */
function drawUnder({ context, palette, ratio, top, height, from, to }: CardStyle, { x0 }: Card): void {
  const size = MARK_WIDTH + 3;
  if (x0 > to || x0 + (size + 8) * ratio < from) return;
  context.save();
  context.scale(ratio, ratio);
  context.translate(x0 / ratio + 8, (top + height) / ratio - size);
  context.fillStyle = palette.panel;
  context.fillRect(0, 0, size, size - 1);
  context.strokeStyle = palette.ink;
  context.lineWidth = 1.2;
  context.translate(3, 2.5);
  context.stroke(markPath("recording"));
  context.restore();
}

/** The strip along the lower edge: dashed live, solid rendered, hatched when the render no longer matches, hollow when all is off; then signs and the number of steps. */
function drawHem(style: CardStyle, card: Card, from: number, to: number): void {
  const { clip, state, x0, x1 } = card;
  const { context, palette, ratio, top, height } = style;
  const count = String(clip.steps.length);
  const marks = marksOf(style, card, count.length);
  const y = top + height - Math.round((HEM - 3) * ratio);
  const h = Math.round(5 * ratio);
  const start = x0 + Math.round(4 * ratio);
  const end = x1 - Math.round((6 + count.length * DIGIT + marks.length * MARK_WIDTH) * ratio);
  // What is drawn of it.
  const [left, right] = [Math.max(from, start), Math.min(to, end)];
  context.fillStyle = context.strokeStyle = state === "off" ? palette.soft : palette.madder;
  if (right > left) {
    if (state === "rendered") context.fillRect(left, y, right - left, h);
    else if (state === "live") {
      const period = Math.round((DASH + GAP) * ratio);
      context.setLineDash([DASH * ratio, period - DASH * ratio]);
      context.lineDashOffset = (left - start) % period;
      context.lineWidth = h;
      context.beginPath();
      context.moveTo(left, y + h / 2);
      context.lineTo(right, y + h / 2);
      context.stroke();
      context.setLineDash([]);
    } else drawOutlinedHem(context, { left, right, start, end, y, h, ratio, hatched: state === "stale" });
  }
  if (end > to) return;
  context.save();
  context.scale(ratio, ratio);
  context.font = COUNT_FONT;
  context.fillStyle = context.strokeStyle = palette.ink;
  context.fillText(count, x1 / ratio - 3 - count.length * DIGIT, (top + height) / ratio - 2);
  context.lineWidth = 1.2;
  context.translate(end / ratio + 3, y / ratio - 0.5);
  for (const mark of marks) {
    context.stroke(markPath(mark));
    context.translate(MARK_WIDTH, 0);
  }
  context.restore();
}

interface HemBox {
  readonly left: number;
  readonly right: number;
  readonly start: number;
  readonly end: number;
  readonly y: number;
  readonly h: number;
  readonly ratio: number;
  readonly hatched: boolean;
}

function drawOutlinedHem(
  context: CanvasRenderingContext2D,
  { left, right, start, end, y, h, ratio, hatched }: HemBox
): void {
  context.save();
  context.beginPath();
  context.rect(left, y, right - left, h);
  context.clip();
  context.lineWidth = ratio;
  context.strokeRect(start + ratio / 2, y + ratio / 2, end - start - ratio, h - ratio);
  if (hatched) {
    context.beginPath();
    const period = Math.round(6 * ratio);
    for (let x = start + Math.floor((left - start) / period) * period; x < right; x += period) {
      context.moveTo(x, y + h);
      context.lineTo(x + h, y);
    }
    context.stroke();
  }
  context.restore();
}

/** The spans of the clip's steps where they lie: one thin band each, above the hem. */
function drawSpans(style: CardStyle, { clip }: Card, bottom: number): void {
  const { context, palette, ratio, left, framesPerPixel } = style;
  let row = 0;
  for (const step of clip.steps) {
    if (!step.span) continue;
    const from = Math.max(step.span.from, clip.offset) - clip.offset + clip.start;
    const to = Math.min(step.span.to, clip.offset + clip.length) - clip.offset + clip.start;
    if (to <= from) continue;
    const x = Math.round((from - left) / framesPerPixel);
    const width = Math.max(2 * ratio, Math.round((to - from) / framesPerPixel));
    const y = bottom - Math.round((++row * (SPAN_HEIGHT + 1) + 1) * ratio);
    const h = SPAN_HEIGHT * ratio;
    context.fillStyle = step.on ? palette.madder : palette.soft;
    const alpha = context.globalAlpha;
    if (step.id !== style.chosenStep) context.globalAlpha = alpha * (step.on ? 0.55 : 0.35);
    context.fillRect(x, y, width, h);
    context.globalAlpha = alpha;
    context.fillRect(x, y, 2 * ratio, h);
    context.fillRect(x + width - 2 * ratio, y, 2 * ratio, h);
  }
}

/** Lines of the fades, and grips on selected clips. Drawn over all cards of a lane, so that crossfades show both. */
export function drawFades(style: CardStyle, card: Card): void {
  const { context, palette, ratio, left, framesPerPixel, top, height, selected } = style;
  const { clip, state, x0, x1 } = card;
  const box = waveBox(height / ratio, state !== "untreated" && x1 - x0 >= LEAST_WITH_ELEMENT * ratio);
  const upper = top + box.top * ratio;
  const h = box.height * ratio;
  context.strokeStyle = palette.ink;
  context.lineWidth = 1.5 * ratio;
  const inX = (clip.start + clip.fadeIn.length - left) / framesPerPixel;
  const outX = (clip.start + clip.length - clip.fadeOut.length - left) / framesPerPixel;
  const line = (from: number, to: number) => {
    if (to - from < 3 * ratio) return;
    context.beginPath();
    const step = style.moving ? Math.max(1, (to - from) / 32) : 2;
    const first = from + Math.max(0, Math.floor((style.from - from) / step) - 1) * step;
    for (let x = first; ; x += step) {
      const at = Math.min(x, to);
      const frame = left + at * framesPerPixel - clip.start;
      context.lineTo(
        at,
        upper + (1 - fadeGainAt(clip, Math.max(0, Math.min(clip.length - 1, frame)))) * (h - 2) + 1
      );
      if (x >= to || x > style.to) break;
    }
    context.stroke();
  };
  if (inX > style.from && x0 < style.to) line(x0, inX);
  if (x1 > style.from && outX < style.to) line(outX, x1);
  if (clip.ringOut) drawRing(style, card, upper, h);
  if (clip.line) drawLine(style, card, upper, h);
  if (!selected.has(clip.id) || x1 - x0 <= LEAST_WITH_GRIPS * ratio) return;
  const size = GRIP * ratio;
  for (const [x, mark] of [
    [gripInSight(Math.max(x0, inX - ratio), style.width, size), inX],
    [gripInSight(Math.min(x1, outX) - size, style.width, size), outX]
  ] as const) {
    context.fillStyle = palette.soft;
    context.fillRect(Math.round(mark), top, Math.max(1, ratio / 2), height);
    context.fillStyle = palette.panel;
    context.fillRect(x, top, size, size);
    context.strokeRect(x + 0.75 * ratio, top + 0.75 * ratio, size - 1.5 * ratio, size - 1.5 * ratio);
  }
}

/** What rings after a clip's end: a wedge that runs out over what lies there. */
function drawRing(
  { context, palette, ratio, doc, framesPerPixel, from, to }: CardStyle,
  { clip, x1 }: Card,
  upper: number,
  h: number
): void {
  const rate = doc.get("project", "project")?.sampleRate ?? 48000;
  const end = x1 + ringFrames(clip, rate) / framesPerPixel;
  if (end - x1 < 2 * ratio || end < from || x1 > to) return;
  const middle = upper + h / 2;
  context.beginPath();
  context.moveTo(x1, middle - h * 0.3);
  context.lineTo(end, middle);
  context.lineTo(x1, middle + h * 0.3);
  context.closePath();
  const alpha = context.globalAlpha;
  context.globalAlpha = alpha * 0.18;
  context.fillStyle = palette.madder;
  context.fill();
  context.globalAlpha = alpha;
  context.strokeStyle = palette.madder;
  context.lineWidth = ratio;
  context.stroke();
}

/** The gain line of a clip; that of the clip on the bench has points over it. */
function drawLine(style: CardStyle, { clip, x0, x1 }: Card, upper: number, h: number): void {
  const { context, palette, ratio, left, framesPerPixel, from, to, moving } = style;
  if (!clip.line) return;
  const owner = { kind: "clip" as const, clip };
  const curve = curveOf(clip.line);
  const step = (moving ? 16 : 4) * ratio;
  context.strokeStyle = palette.soft;
  context.lineWidth = ratio;
  context.beginPath();
  const first = Math.max(x0, Math.floor((from - x0) / step) * step + x0 - step);
  for (let x = first; ; x += step) {
    const at = Math.min(x, x1);
    const db = curve.at(left + at * framesPerPixel - clip.start + clip.offset);
    context.lineTo(at, upper + 1 + (1 - heightOf(owner, db)) * (h - 2));
    if (x >= x1 || x > to) break;
  }
  context.stroke();
}

/** Of a clip that is being pulled: where it was. */
export function drawGhost(style: CardStyle, { x0, x1 }: Card): void {
  const { context, palette, ratio, top, height } = style;
  context.strokeStyle = palette.soft;
  context.lineWidth = ratio;
  context.setLineDash([3 * ratio, 3 * ratio]);
  context.strokeRect(x0 + ratio / 2, top + ratio / 2, x1 - x0 - ratio, height - ratio);
  context.setLineDash([]);
}
