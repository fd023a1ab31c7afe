// Sizes and counts as people write them into the environment.
const UNITS: Record<string, number> = {
  "": 1,
  B: 1,
  K: 1e3,
  M: 1e6,
  G: 1e9,
  T: 1e12,
  KI: 2 ** 10,
  MI: 2 ** 20,
  GI: 2 ** 30,
  TI: 2 ** 40
};

/**
 * "5GB", "500 MB", "2GiB" or plain bytes, in bytes. Units as in IEC 80000-13: 1 MB = 10^6, 1 MiB = 2^20.
 * @throws Error with a sentence when it is none of these
 */
export function parseBytes(name: string, text: string | undefined, standard: number): number {
  if (text === undefined || text.trim() === "") return standard;
  const match = /^(\d+(?:\.\d+)?)\s*([KMGT]I?)?B?$/i.exec(text.trim());
  const unit = match ? UNITS[(match[2] ?? "").toUpperCase()] : undefined;
  if (!match || unit === undefined)
    throw new Error(
      `${name} is "${text}", which is no size. Write bytes, or a number with a unit: 500MB, 5GB, 2GiB.`
    );
  return Math.floor(Number(match[1]) * unit);
}

/** A whole number from 1 to `most`. @throws Error with a sentence when it is none */
export function parseCount(name: string, text: string | undefined, standard: number, most: number): number {
  if (text === undefined || text.trim() === "") return standard;
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > most)
    throw new Error(`${name} is "${text}"; it takes a whole number from 1 to ${most}.`);
  return value;
}

/** Bytes for people: "1.3 GB". */
export function bytesText(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  return `${(bytes / 1e6).toFixed(1)} MB`;
}
