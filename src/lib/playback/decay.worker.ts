// Makes pictures of how rooms and echoes die away, off the page: a long one takes a while.
import { decayCurve, type DecayCurve } from "$lib/core/effects/decayCurve";
import type { Params } from "$lib/core/effects/description";

export interface ToDecay {
  readonly id: number;
  readonly effect: string;
  readonly params: Params;
  readonly sampleRate: number;
  readonly seconds: number;
  readonly columns: number;
}
export type FromDecay = { readonly id: number } & DecayCurve;

onmessage = ({ data }: MessageEvent<ToDecay>) => {
  const { id, effect, params, sampleRate, seconds, columns } = data;
  const curve = decayCurve(effect, params, sampleRate, seconds, columns);
  postMessage({ id, ...curve } satisfies FromDecay);
};
