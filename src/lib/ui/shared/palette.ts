// The colours of the look, for canvases.
import { look } from "./look.svelte";

export interface Palette {
  readonly paper: string;
  readonly panel: string;
  readonly sunk: string;
  readonly ink: string;
  readonly soft: string;
  readonly rule: string;
  readonly slate: string;
  readonly madder: string;
  readonly ochre: string;
  readonly select: string;
}

const NAMES = [
  "paper",
  "panel",
  "sunk",
  "ink",
  "soft",
  "rule",
  "slate",
  "madder",
  "ochre",
  "select"
] as const;

let known: { readonly dark: boolean; readonly palette: Palette } | undefined;

/** The colours as they are now, read once for each look: asking the browser for them costs a frame dear. In an effect: told when the look changes. */
export function currentPalette(): Palette {
  const { dark } = look;
  if (known?.dark !== dark) known = { dark, palette: readPalette() };
  return known.palette;
}

function readPalette(): Palette {
  const style = getComputedStyle(document.documentElement);
  const entries = NAMES.map((name) => [name, style.getPropertyValue(`--w-${name}`).trim()]);
  return Object.fromEntries(entries) as unknown as Palette;
}

/** "#rrggbb" as a little-endian pixel, 0xAABBGGRR. */
export function pixelOf(colour: string): number {
  const value = Number.parseInt(colour.slice(1), 16);
  return ((0xff << 24) | ((value & 0xff) << 16) | (value & 0xff00) | ((value >> 16) & 0xff)) >>> 0;
}
