// A clip's waveform, put together from tiles: gain and fades shape it as they are heard.
import { shapeGainAt } from "$lib/core/render/clipShape";
import type { StepSpec } from "$lib/core/effects/chain";
import { num } from "$lib/core/effects/description";
import { gain } from "$lib/core/effects/gain";
import { completeParams } from "$lib/core/effects/registry";
import { insideOf, partOf } from "$lib/core/render/soundPart";
import type { ResolvedClip } from "$lib/core/session/lookup";
import type { Recording } from "$lib/core/session/schema";
import { dbToGain } from "$lib/core/units/decibels";
import { halfOctave, lookKey, TILE_WIDTH, type WaveLook } from "$lib/waveform/tile";
import { AHEAD, type StandIn, type Tiles } from "$lib/waveform/tiles";

/** Where and how it is drawn; all in device pixels. */
export interface WavePlace {
  readonly lane: string;
  /** Frame of the timeline at x = 0. */
  readonly left: number;
  readonly framesPerPixel: number;
  /** Columns [from, to). */
  readonly from: number;
  readonly to: number;
  readonly top: number;
  readonly height: number;
  /** Factor by which waveforms are drawn taller. */
  readonly taller: number;
  readonly colour: number;
  /** While the view moves: tiles of half octaves, and fades in coarse steps. */
  readonly moving: boolean;
}

/** Steps of a fade while the view moves, and the least width of one at rest. */
const COARSE_STEPS = 24;

interface Wave {
  readonly context: CanvasRenderingContext2D;
  readonly tiles: Tiles<ImageBitmap>;
  readonly look: WaveLook;
  readonly key: string;
  readonly place: WavePlace;
  /** Frame of the recording at x = 0. */
  readonly origin: number;
}

/** Draws columns [from, to) from one look's tiles of a zoom; false when a tile is missing. `share`: of the height, for fades. */
function blit(
  { context, tiles, place, origin }: Wave,
  look: string,
  zoom: number,
  from: number,
  to: number,
  share: number,
  missing?: (index: number) => void
): boolean {
  const { framesPerPixel, top, height } = place;
  const frames = TILE_WIDTH * zoom;
  const h = height * share;
  const y = top + (height - h) / 2;
  let whole = true;
  for (let x = from; x < to;) {
    const index = Math.floor((origin + x * framesPerPixel) / frames);
    const end = Math.max(x + 1, Math.min(to, Math.round(((index + 1) * frames - origin) / framesPerPixel)));
    const bitmap = index < 0 ? undefined : tiles.find(look, zoom, index);
    if (bitmap) {
      const sx = Math.max(0, (origin + x * framesPerPixel) / zoom - index * TILE_WIDTH);
      const sw = Math.min(TILE_WIDTH - sx, ((end - x) * framesPerPixel) / zoom);
      if (sw > 0) context.drawImage(bitmap, sx, 0, sw, bitmap.height, x, y, end - x, h);
    } else if (index >= 0) {
      whole = false;
      missing?.(index);
    }
    x = end;
  }
  return whole;
}

function draw(wave: Wave, from: number, to: number, share: number): void {
  const { tiles, look, key, place } = wave;
  if (to <= from) return;
  const zoom = place.moving ? halfOctave(place.framesPerPixel) : place.framesPerPixel;
  let gap = false;
  // Asked first, so that nothing is drawn twice where a stand-in is needed.
  for (
    let index = Math.max(0, Math.floor((wave.origin + from * place.framesPerPixel) / (TILE_WIDTH * zoom)));
    index * TILE_WIDTH * zoom < wave.origin + to * place.framesPerPixel;
    index++
  ) {
    if (index * TILE_WIDTH * zoom >= look.frames) break;
    if (tiles.find(key, zoom, index)) continue;
    gap = true;
    tiles.wish(look, zoom, index, place.lane, {
      from: place.left + from * place.framesPerPixel,
      to: place.left + to * place.framesPerPixel
    });
  }
  if (!place.moving) ahead(wave, zoom, from, to);
  if (!gap) {
    blit(wave, key, zoom, from, to, share);
    return;
  }
  let best: StandIn | undefined;
  for (const other of tiles.standIns(look, zoom)) {
    best ??= other;
    if (!has(wave, other.look, other.framesPerPixel, from, to)) continue;
    best = other;
    break;
  }
  if (best) blit(wave, best.look, best.framesPerPixel, from, to, share);
}

/** Asks for the tiles on both sides: when the view is scrolled there, they have come. */
function ahead({ tiles, look, key, place, origin }: Wave, zoom: number, from: number, to: number): void {
  const frames = TILE_WIDTH * zoom;
  const first = Math.floor((origin + from * place.framesPerPixel) / frames) - 1;
  const last = Math.floor((origin + to * place.framesPerPixel) / frames) + 1;
  for (const index of [first, last])
    if (index >= 0 && index * frames < look.frames && !tiles.find(key, zoom, index))
      tiles.wish(look, zoom, index, AHEAD, {
        from: index * frames - origin + place.left,
        to: (index + 1) * frames - origin + place.left
      });
}

/** Whether all tiles for a stretch are there. */
function has(
  { tiles, look, place, origin }: Wave,
  key: string,
  zoom: number,
  from: number,
  to: number
): boolean {
  const frames = TILE_WIDTH * zoom;
  const end = Math.min(look.frames, origin + to * place.framesPerPixel);
  for (
    let i = Math.max(0, Math.floor((origin + from * place.framesPerPixel) / frames));
    i * frames < end;
    i++
  )
    if (!tiles.find(key, zoom, i)) return false;
  return true;
}

/** What the steps that are mere gain make of the level: a clip that is lifted by 28 dB is seen as it is heard. */
function plainGainDb(steps: readonly StepSpec[]): number {
  return steps.reduce(
    (sum, { effect, on, span, params }) =>
      on && span === null && effect === gain.id ? sum + num(completeParams(gain, params), "gainDb") : sum,
    0
  );
}

/** Draws a clip's waveform between two columns. */
export function drawWave(
  context: CanvasRenderingContext2D,
  tiles: Tiles<ImageBitmap>,
  clip: ResolvedClip,
  recording: Recording | undefined,
  place: WavePlace
): void {
  if (!recording || place.height < 1) return;
  const part = partOf(clip);
  const { recordingId } = part;
  const offset = part.offset + insideOf(part).from;
  const look: WaveLook = {
    recordingId,
    frames: recording.frames,
    height: place.height,
    gain: dbToGain(clip.gainDb + plainGainDb(part.steps)) * place.taller,
    colour: place.colour
  };
  const { left, framesPerPixel } = place;
  const wave: Wave = {
    context,
    tiles,
    look,
    key: lookKey(look),
    place,
    origin: left - clip.start + offset
  };
  const x = (frame: number) => (clip.start + frame - left) / framesPerPixel;
  const inEnd = Math.min(place.to, Math.max(place.from, Math.round(x(clip.fadeIn.length))));
  const outBegin = Math.max(inEnd, Math.min(place.to, Math.round(x(clip.length - clip.fadeOut.length))));
  const gainAt = (column: number) => {
    const frame = left + column * framesPerPixel - clip.start;
    return shapeGainAt(clip, Math.max(0, Math.min(clip.length - 1, frame)));
  };
  // Columns whose heights differ by less than a pixel are drawn at once.
  const alike = Math.max(1, place.height) * (place.moving ? 0.25 : 1);
  const shaped = (from: number, to: number) => {
    const step = place.moving ? Math.max(1, Math.ceil((to - from) / COARSE_STEPS)) : 1;
    for (let at = from; at < to;) {
      const gain = gainAt(at + 0.5);
      let end = Math.min(to, at + step);
      while (end < to && Math.abs(gainAt(end + 0.5) - gain) * alike < 1) end = Math.min(to, end + step);
      draw(wave, at, end, (gain + gainAt(end - 0.5)) / 2);
      at = end;
    }
  };
  shaped(place.from, inEnd);
  if (clip.line) shaped(inEnd, outBegin);
  else draw(wave, inEnd, outBegin, 1);
  shaped(outBegin, place.to);
}
