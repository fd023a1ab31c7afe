import type { Measurement } from "./meter";

/** A measurement as JSON: minus infinity (silence) is null. */
export type MeasurementJson = { readonly [K in keyof Measurement]: number | null };

export function measurementToJson(m: Measurement): MeasurementJson {
  const entries = Object.entries(m).map(([key, value]) => [key, Number.isFinite(value) ? value : null]);
  return Object.fromEntries(entries) as MeasurementJson;
}
