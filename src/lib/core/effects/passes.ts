import type { Processor } from "./description";

/** For an effect without delay that found nothing to do: the sound stays as it is, bit for bit. */
export const PASSES: Processor = { process: () => undefined, release: () => undefined };
