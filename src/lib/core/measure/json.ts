import type { LoudnessCurve } from "./loudnessCurve";
import type { Measurement } from "./meter";

/** Loudness over time as JSON: minus infinity (silence) is null. */
export type CurveJson = { readonly [K in keyof LoudnessCurve]: readonly (number | null)[] };

/** To a hundredth of a decibel: it is for drawing. */
export function curveToJson(curve: LoudnessCurve): CurveJson {
  const entries = Object.entries(curve).map(([key, values]) => [
    key,
    [...(values as Float64Array)].map((v) => (Number.isFinite(v) ? Math.round(v * 100) / 100 : null))
  ]);
  return Object.fromEntries(entries) as CurveJson;
}

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
