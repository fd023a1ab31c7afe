import type { Measurement } from "./meter";

/** A measurement as JSON: minus infinity (silence) is null. */
export type MeasurementJson = { readonly [K in keyof Measurement]: number | null };

/** The other way round: what is null was silence. */
export function measurementFromJson(m: MeasurementJson): Measurement {
  const entries = Object.entries(m).map(([key, value]) => [key, value ?? -Infinity]);
  return Object.fromEntries(entries) as unknown as Measurement;
}

export function measurementToJson(m: Measurement): MeasurementJson {
  const entries = Object.entries(m).map(([key, value]) => [key, Number.isFinite(value) ? value : null]);
  return Object.fromEntries(entries) as MeasurementJson;
}
