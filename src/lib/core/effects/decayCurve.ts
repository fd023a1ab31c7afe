// How what an effect adds dies away after one click: for pictures of rooms and echoes.
import { BLOCK, StereoBlock } from "../audio/block";
import { kernels } from "../kernels/instance";
import { powerToDb } from "../units/decibels";
import { Chain } from "./chain";
import type { Params } from "./description";

export interface DecayCurve {
  readonly seconds: number;
  /** Level of each of equal parts below the loudest, in dB; what is silent is -Infinity. */
  readonly levels: number[];
}

/**
 * The levels after one click, of the effect's own sound alone.
 * @param params complete; a share of the untreated sound is left out of account
 */
export function decayCurve(
  effect: string,
  params: Params,
  sampleRate: number,
  seconds: number,
  columns: number
): DecayCurve {
  const wet = "mixPercent" in params ? { ...params, mixPercent: 100 } : params;
  const chain = new Chain([{ effect, on: true, params: wet }], sampleRate);
  const block = new StereoBlock(BLOCK);
  const frames = Math.max(columns, Math.round(seconds * sampleRate));
  const powers = new Float64Array(columns);
  const begin = chain.timing.latency;
  try {
    for (let at = 0; at < frames + begin; at += BLOCK) {
      kernels.clear(block.left.ptr, BLOCK);
      kernels.clear(block.right.ptr, BLOCK);
      if (at === 0) block.left.f32[0] = block.right.f32[0] = 1;
      chain.process(block.left.ptr, block.right.ptr, BLOCK);
      const [left, right] = [block.left.f32, block.right.f32];
      for (let i = 0; i < BLOCK; i++) {
        const frame = at + i - begin;
        if (frame < 0 || frame >= frames) continue;
        powers[Math.floor((frame * columns) / frames)] += left[i] ** 2 + right[i] ** 2;
      }
    }
  } finally {
    chain.release();
    block.release();
  }
  const most = Math.max(...powers);
  return { seconds, levels: Array.from(powers, (p) => (most > 0 ? powerToDb(p / most) : -Infinity)) };
}
