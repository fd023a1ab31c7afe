// How measurements are printed.
import type { Measurement } from "$lib/core/measure/meter";
import { formatDb } from "$lib/core/units/decibels";
import { formatTime } from "$lib/core/units/time";

/** The keys of `measure --json`, in their order. */
export interface Row {
  readonly file: string;
  readonly sampleRate: number;
  readonly channels: number;
  readonly frames: number;
  readonly durationSeconds: number;
  readonly measurement: Measurement;
}

const KEYS = [
  "integratedLufs",
  "momentaryMaxLufs",
  "shortTermMaxLufs",
  "loudnessRangeLu",
  "truePeakDbtp",
  "samplePeakDbfs",
  "rmsDbfs",
  "clippedSamples",
  "dcOffset",
  "noiseFloorDbfs"
] as const;

/** Minus infinity is null: JSON has no infinity. */
export function jsonLevels(measurement: Measurement): Record<(typeof KEYS)[number], number | null> {
  return Object.fromEntries(
    KEYS.map((key) => [key, Number.isFinite(measurement[key]) ? measurement[key] : null])
  ) as Record<(typeof KEYS)[number], number | null>;
}

export function jsonRow({ measurement, ...row }: Row): Record<string, unknown> {
  return { ...row, ...jsonLevels(measurement) };
}

export function json(value: unknown): string {
  return `${JSON.stringify(value, null, 2)}\n`;
}

/** Lines of cells as columns; all but the first are flush right. */
export function columns(rows: readonly (readonly string[])[]): string {
  const widths = rows[0].map((_, c) => Math.max(...rows.map((r) => r[c].length)));
  return rows
    .map(
      (r) =>
        r
          .map((cell, c) => (c === 0 ? cell.padEnd(widths[c]) : cell.padStart(widths[c])))
          .join("  ")
          .trimEnd() + "\n"
    )
    .join("");
}

export function measurementTable(rows: readonly Row[]): string {
  const head = [
    "file",
    "length",
    "I LUFS",
    "M max",
    "S max",
    "LRA LU",
    "dBTP",
    "peak",
    "RMS",
    "clipped",
    "DC",
    "floor"
  ];
  const lines = rows.map(({ file, durationSeconds, measurement: m }) => [
    file,
    formatTime(durationSeconds),
    ...[
      m.integratedLufs,
      m.momentaryMaxLufs,
      m.shortTermMaxLufs,
      m.loudnessRangeLu,
      m.truePeakDbtp,
      m.samplePeakDbfs,
      m.rmsDbfs
    ].map((v) => formatDb(v)),
    String(m.clippedSamples),
    m.dcOffset.toFixed(5),
    formatDb(m.noiseFloorDbfs)
  ]);
  return columns([head, ...lines]);
}
