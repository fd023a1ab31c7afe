// The fonts of text in canvases.

export const NAME_FONT = '12px "IBM Plex Sans", system-ui, sans-serif';
export const COUNT_FONT = '12px "IBM Plex Mono", ui-monospace, monospace';
/** Width of a letter of COUNT_FONT in pixels: all are 0.6 em wide. */
export const DIGIT = 7.2;
