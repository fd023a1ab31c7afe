// Loudness that programmes are delivered at.

export interface Target {
  readonly id: string;
  readonly name: string;
  readonly lufs: number;
  /** LU to both sides. */
  readonly tolerance: number;
  /** Most true peak, dBTP. */
  readonly truePeak: number;
}

export const TARGETS: readonly Target[] = [
  // EBU R 128 (2023): -23.0 LUFS ± 0.5 LU, at most -1 dBTP.
  { id: "r128", name: "EBU R 128, -23 LUFS", lufs: -23, tolerance: 0.5, truePeak: -1 },
  // ATSC A/85: -24 LKFS ± 2 dB, at most -2 dBTP.
  { id: "a85", name: "ATSC A/85, -24 LKFS", lufs: -24, tolerance: 2, truePeak: -2 },
  // Podcasts: common practice, no source.
  { id: "podcast", name: "Podcast, -16 LUFS", lufs: -16, tolerance: 1, truePeak: -1 }
];

/** How a measurement stands to a target: in a few words, and whether it passes. */
export function verdict(
  { lufs, tolerance, truePeak }: Target,
  integrated: number,
  peak: number
): { readonly passes: boolean; readonly text: string } {
  if (!Number.isFinite(integrated)) return { passes: false, text: "silent" };
  const off = integrated - lufs;
  const faults: string[] = [];
  if (Math.abs(off) > tolerance + 1e-9)
    faults.push(`${Math.abs(off).toFixed(1)} LU too ${off > 0 ? "loud" : "quiet"}`);
  if (peak > truePeak + 1e-9) faults.push(`peaks ${(peak - truePeak).toFixed(1)} dB too high`);
  return faults.length === 0 ? { passes: true, text: "passes" } : { passes: false, text: faults.join(", ") };
}
