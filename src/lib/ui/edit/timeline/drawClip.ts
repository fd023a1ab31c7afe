// The waveform of a clip as it is heard: gain and fades shape it.
import { fadeGainAt } from "$lib/core/audio/fadeCurve";
import { partOf } from "$lib/core/render/soundPart";
import type { ResolvedClip } from "$lib/core/session/lookup";
import { dbToGain } from "$lib/core/units/decibels";
import type { Waveforms } from "$lib/playback/waveforms";

export interface ClipPicture {
  readonly clip: ResolvedClip;
  /** Frame of the timeline at the picture's left edge. */
  readonly left: number;
  readonly framesPerPixel: number;
  readonly width: number;
  readonly height: number;
  /** Factor by which the waveform is drawn taller. */
  readonly taller: number;
  readonly colour: string;
  readonly faint: string;
}

/** Draws into a canvas whose size in CSS pixels is given; missing waveform data is asked for. */
export function drawClip(canvas: HTMLCanvasElement, waveforms: Waveforms, picture: ClipPicture): void {
  const { clip, left, framesPerPixel, width, height } = picture;
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.max(1, Math.round(width * ratio));
  canvas.height = Math.max(1, Math.round(height * ratio));
  const context = canvas.getContext("2d");
  if (!context) return;
  context.scale(ratio, ratio);
  const { recordingId, offset } = partOf(clip);
  const level = waveforms.levelFor(framesPerPixel);
  const middle = height / 2;
  const gain = dbToGain(clip.gainDb) * picture.taller;
  const peaks = { low: 0, high: 0 };
  context.fillStyle = picture.colour;
  context.beginPath();
  let missing = false;
  for (let x = 0; x < width; x++) {
    const from = left + x * framesPerPixel - clip.start;
    if (from + framesPerPixel <= 0 || from >= clip.length) continue;
    const found = waveforms.peaks(
      recordingId,
      level,
      offset + Math.max(0, from),
      offset + Math.min(clip.length, from + framesPerPixel),
      peaks
    );
    if (!found) {
      missing = true;
      continue;
    }
    const shape = gain * fadeGainAt(clip, Math.max(0, Math.min(clip.length - 1, from + framesPerPixel / 2)));
    const top = Math.max(-1, Math.min(1, found.high * shape));
    const bottom = Math.max(-1, Math.min(1, found.low * shape));
    const y = middle - top * (middle - 1);
    context.rect(x, y, 1, Math.max(1, middle - bottom * (middle - 1) - y));
  }
  context.fill();
  if (missing) {
    context.fillStyle = picture.faint;
    context.fillRect(0, middle, width, 1);
  }
  drawFades(context, picture);
}

function drawFades(
  context: CanvasRenderingContext2D,
  { clip, left, framesPerPixel, width, height, faint }: ClipPicture
): void {
  if (clip.fadeIn.length === 0 && clip.fadeOut.length === 0) return;
  context.strokeStyle = faint;
  context.lineWidth = 1.5;
  context.beginPath();
  let drawing = false;
  for (let x = 0; x <= width; x++) {
    const at = left + x * framesPerPixel - clip.start;
    const inFade =
      at >= 0 && at <= clip.length && (at <= clip.fadeIn.length || at >= clip.length - clip.fadeOut.length);
    if (!inFade) {
      drawing = false;
      continue;
    }
    const y = 1 + (1 - fadeGainAt(clip, Math.min(clip.length - 1, at))) * (height - 2);
    if (drawing) context.lineTo(x, y);
    else context.moveTo(x, y);
    drawing = true;
  }
  context.stroke();
}
