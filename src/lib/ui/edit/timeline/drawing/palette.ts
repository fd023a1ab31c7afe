// The colours of the look, for canvases.

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

/** The look as it is now. */
export function readPalette(): Palette {
  const style = getComputedStyle(document.documentElement);
  const entries = NAMES.map((name) => [name, style.getPropertyValue(`--w-${name}`).trim()]);
  return Object.fromEntries(entries) as unknown as Palette;
}

/** "#rrggbb" as a little-endian pixel, 0xAABBGGRR. */
export function pixelOf(colour: string): number {
  const value = Number.parseInt(colour.slice(1), 16);
  return ((0xff << 24) | ((value & 0xff) << 16) | (value & 0xff00) | ((value >> 16) & 0xff)) >>> 0;
}
