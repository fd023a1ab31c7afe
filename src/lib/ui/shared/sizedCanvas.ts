/** Gives a canvas as many pixels as its size in CSS pixels takes. One that has them keeps its picture. */
export function fit(canvas: HTMLCanvasElement, width: number, height: number, ratio: number): void {
  const [w, h] = [Math.max(1, Math.round(width * ratio)), Math.max(1, Math.round(height * ratio))];
  if (canvas.width !== w) canvas.width = w;
  if (canvas.height !== h) canvas.height = h;
}

/** Gives a canvas a size in CSS pixels; returns its context, scaled by nothing. One that lies over others says so: data-over. */
export function sized(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
  ratio: number
): CanvasRenderingContext2D {
  fit(canvas, width, height, ratio);
  const context = canvas.getContext("2d", { alpha: canvas.dataset.over !== undefined });
  if (!context) throw new Error("This browser cannot draw.");
  context.imageSmoothingEnabled = false;
  return context;
}
