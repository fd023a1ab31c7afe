// Spectra over time as JSON: their bytes as base64.
import type { Spectra } from "./spectrumColumns";

export interface SpectraJson {
  readonly columns: number;
  readonly bands: number;
  readonly levels: string;
}

/** Bytes that are made text at once: arguments of a call are limited. */
const PIECE = 8192;

export function spectraToJson({ columns, bands, levels }: Spectra): SpectraJson {
  let text = "";
  for (let at = 0; at < levels.length; at += PIECE)
    text += String.fromCharCode(...levels.subarray(at, at + PIECE));
  return { columns, bands, levels: btoa(text) };
}

export function spectraFromJson({ columns, bands, levels }: SpectraJson): Spectra {
  const text = atob(levels);
  return { columns, bands, levels: Uint8Array.from(text, (letter) => letter.charCodeAt(0)) };
}
