import pino from "pino";

export const log = pino({ level: process.env.WRING_LOG ?? "info", base: null });

/** What becomes of an error that no one waits for: `work().catch(logged("clearing up"))`. */
export function logged(what: string): (error: unknown) => void {
  return (error) => log.error({ error: String((error as Error).stack ?? error) }, `${what} failed`);
}
