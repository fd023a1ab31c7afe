import { kernels } from "../kernels/instance";

const LN10_20 = Math.LN10 / 20;

/** Amplitude ratio of a level in dB: 10^(dB/20). The same bits in every engine; 0 dB gives exactly 1. */
export function dbToGain(db: number): number {
  return db === -Infinity ? 0 : kernels.exp(db * LN10_20);
}

/** Level in dB of an amplitude ratio; -Infinity for 0. */
export function gainToDb(gain: number): number {
  return gain > 0 ? kernels.log(gain) / LN10_20 : -Infinity;
}

/** Level in dB of a power ratio; -Infinity for 0. */
export function powerToDb(power: number): number {
  return gainToDb(power) / 2;
}

/** "-18.2", "+3.0", "-∞": a level for reading, one decimal unless said, true minus only for infinity. */
export function formatDb(db: number, decimals = 1, sign = false): string {
  if (db === -Infinity) return "-∞";
  const text = db.toFixed(decimals);
  const zeroed = Number(text) === 0 ? (0).toFixed(decimals) : text;
  return sign && Number(text) > 0 ? `+${zeroed}` : zeroed;
}

/** Decibels of a typed text, "-3.5", "+2 dB", "1,5"; undefined when it is none. */
export function parseDb(text: string): number | undefined {
  const match = /^\s*([+-]?\d*[.,]?\d+)\s*(?:dB)?\s*$/i.exec(text);
  return match ? Number(match[1].replace(",", ".")) : undefined;
}
