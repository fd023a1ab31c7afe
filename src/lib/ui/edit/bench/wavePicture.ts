// Waveforms and spectra over time, drawn into a canvas in device pixels.
import { levelOf, type Spectra } from "$lib/core/measure/spectrumColumns";

/** Where a picture lies, and what of the sound it shows, as shares of the whole. */
interface Box {
  readonly top: number;
  readonly height: number;
  readonly from: number;
  readonly to: number;
}
interface WaveBox extends Box {
  /** Magnitude that fills the height. */
  readonly full: number;
}

/** Levels between which a spectrum goes from paper to colour. */
const QUIET_DB = -110;
const LOUD_DB = -20;

/** Height of the wave at each column, as a share of half the box. */
function* heights(
  context: CanvasRenderingContext2D,
  peaks: ArrayLike<number>,
  { from, to, full }: WaveBox
): Generator<number> {
  const columns = context.canvas.width;
  const at = (x: number) => (from + (x / columns) * (to - from)) * peaks.length;
  for (let x = 0; x < columns; x++) {
    const first = Math.max(0, Math.floor(at(x)));
    const last = Math.min(peaks.length, Math.max(first + 1, Math.floor(at(x + 1))));
    let peak = 0;
    for (let i = first; i < last; i++) peak = Math.max(peak, peaks[i] ?? 0);
    yield Math.min(1, peak / full);
  }
}

/** Fills a waveform in the context's colour. */
export function drawPeaks(
  context: CanvasRenderingContext2D,
  peaks: ArrayLike<number> | null,
  box: WaveBox
): void {
  const middle = box.top + box.height / 2;
  context.fillRect(0, Math.round(middle), context.canvas.width, 1);
  if (!peaks || peaks.length === 0) return;
  context.beginPath();
  let x = 0;
  for (const share of heights(context, peaks, box)) {
    const h = share * (box.height / 2 - 2);
    context.rect(x++, middle - h, 1, 2 * h);
  }
  context.fill();
}

/** Draws the outline of a waveform. */
export function strokePeaks(
  context: CanvasRenderingContext2D,
  peaks: ArrayLike<number> | null,
  box: WaveBox
): void {
  if (!peaks || peaks.length === 0) return;
  const middle = box.top + box.height / 2;
  const all = [...heights(context, peaks, box)];
  context.beginPath();
  for (const side of [1, -1])
    all.forEach((share, x) => {
      const y = middle - side * share * (box.height / 2 - 2);
      if (x === 0) context.moveTo(x, y);
      else context.lineTo(x, y);
    });
  context.stroke();
}

const channels = (colour: string) => [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16));

/** Draws spectra over time, low frequencies below: from one colour where it is quiet to another where it is loud. */
export function drawSpectra(
  context: CanvasRenderingContext2D,
  { columns, bands, levels }: Spectra,
  { top, height, from, to }: Box,
  [quiet, loud]: readonly [string, string]
): void {
  const image = new ImageData(columns, bands);
  const ways = channels(quiet).map((from, k) => ({ from, by: (channels(loud)[k] ?? from) - from }));
  for (let c = 0; c < columns; c++)
    for (let band = 0; band < bands; band++) {
      const db = levelOf(levels[c * bands + band] ?? 0);
      const share = Math.max(0, Math.min(1, (db - QUIET_DB) / (LOUD_DB - QUIET_DB)));
      const at = ((bands - 1 - band) * columns + c) * 4;
      ways.forEach(({ from: dark, by }, k) => (image.data[at + k] = dark + share * by));
      image.data[at + 3] = 255;
    }
  const picture = new OffscreenCanvas(columns, bands);
  picture.getContext("2d")?.putImageData(image, 0, 0);
  context.imageSmoothingEnabled = true;
  context.drawImage(
    picture,
    from * columns,
    0,
    (to - from) * columns,
    bands,
    0,
    top,
    context.canvas.width,
    height
  );
}
