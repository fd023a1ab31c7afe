// Spectra of a trace, painted: at the playhead while something plays, else of the whole.
import { area, line } from "d3";
import { bandHertz, meanSpectrum, type Spectra } from "$lib/core/measure/spectrumColumns";

/** Levels of a spectrum's axis. */
export const SPECTRUM_LEAST_DB = -100;
export const SPECTRUM_MOST_DB = 0;
/** Columns on both sides of the playhead that count. */
const AROUND = 1;

/** The levels by band at a share of the sound; of all of it when there is none. */
export function spectrumAt(spectra: Spectra, share: number | undefined): number[] {
  if (share === undefined) return meanSpectrum(spectra);
  const column = Math.min(spectra.columns - 1, Math.floor(share * spectra.columns));
  return meanSpectrum(spectra, Math.max(0, column - AROUND), Math.min(spectra.columns, column + AROUND + 1));
}

type Scale = (value: number) => number;

function points(levels: readonly number[], x: Scale, y: Scale): [number, number][] {
  return levels.map((db, band) => [
    x(bandHertz(band, levels.length)),
    y(Math.max(SPECTRUM_LEAST_DB, Math.min(SPECTRUM_MOST_DB, db)))
  ]);
}

/** Fills the shape under a spectrum with the context's colour. */
export function fillSpectrum(
  context: CanvasRenderingContext2D,
  levels: readonly number[],
  x: Scale,
  y: Scale
): void {
  context.beginPath();
  area<[number, number]>()
    .x((p) => p[0])
    .y1((p) => p[1])
    .y0(y(SPECTRUM_LEAST_DB))
    .context(context)(points(levels, x, y));
  context.fill();
}

/** Draws a spectrum as a line in the context's colour and width. */
export function strokeSpectrum(
  context: CanvasRenderingContext2D,
  levels: readonly number[],
  x: Scale,
  y: Scale
): void {
  context.beginPath();
  line().context(context)(points(levels, x, y));
  context.stroke();
}
