import { kernels } from "../kernels/instance";

/** Pole of a one-pole smoother that covers 1 - 1/e (63 %) of a step in `seconds`; 0 for no time. */
export function pole(seconds: number, sampleRate: number): number {
  return seconds <= 0 ? 0 : kernels.exp(-1 / (seconds * sampleRate));
}
