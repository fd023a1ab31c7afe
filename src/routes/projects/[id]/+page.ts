// The edit screen needs workers, audio and canvas: it is made in the browser.
export const ssr = false;
