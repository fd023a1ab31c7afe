/** Waits between tries to send, ms, in all about ten minutes. */
export const RETRY_MS: readonly number[] = [
  0,
  500,
  1000,
  2000,
  4000,
  8000,
  ...new Array<number>(20).fill(30000)
];

/** Whether trying again may help: the server did not answer (0), or is going down or coming up. */
export function mayHelp(status: number): boolean {
  return [0, 500, 502, 503, 504].includes(status);
}
