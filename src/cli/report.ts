// How measurements are printed.
import type { Measurement } from "$lib/core/measure/meter";
import { fillsWindow, tooShort } from "$lib/core/measure/windows";
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
  "truePeakAnnex2Dbtp",
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

/** A level as it is printed; a dash where the sound is too short for it. */
function level(
  m: Measurement,
  key: Exclude<keyof Measurement, "truePeakAnnex2Dbtp">,
  seconds: number
): string {
  return fillsWindow(key, seconds) ? formatDb(m[key]) : "–";
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
    ...(
      [
        "integratedLufs",
        "momentaryMaxLufs",
        "shortTermMaxLufs",
        "loudnessRangeLu",
        "truePeakDbtp",
        "samplePeakDbfs",
        "rmsDbfs"
      ] as const
    ).map((key) => level(m, key, durationSeconds)),
    String(m.clippedSamples),
    m.dcOffset.toFixed(5),
    level(m, "noiseFloorDbfs", durationSeconds)
  ]);
  const notes = rows.flatMap(({ file, durationSeconds }) => {
    const note = tooShort(durationSeconds);
    return note ? [`${file}: ${note}\n`] : [];
  });
  return columns([head, ...lines]) + notes.join("");
}
