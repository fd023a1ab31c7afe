/** Gives a canvas a size in CSS pixels; returns its context, scaled by nothing. One that lies over others says so: data-over. */
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
