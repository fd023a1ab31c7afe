// Text in canvases: cut to fit by a table of widths, since measuring every name in every frame is dear.

const widths = new Map<string, number>();

function widthOf(context: CanvasRenderingContext2D, letter: string): number {
  let width = widths.get(letter);
  if (width === undefined) widths.set(letter, (width = context.measureText(letter).width));
  return width;
}

/** A text that is no wider than some pixels, with an ellipsis when it is cut; empty when nothing fits. The context has NAME_FONT. */
export function fitted(
  context: CanvasRenderingContext2D,
  text: string,
  most: number
): { readonly text: string; readonly width: number } {
  const dots = widthOf(context, "…");
  let width = 0;
  let fits = "";
  let cut: { text: string; width: number } = { text: "", width: 0 };
  for (const letter of text) {
    width += widthOf(context, letter);
    if (width > most) return cut;
    fits += letter;
    if (width + dots <= most) cut = { text: `${fits}…`, width: width + dots };
  }
  return { text: fits, width };
}

/** Widths that were measured before the font had come are wrong. */
export function forgetWidths(): void {
  widths.clear();
}
