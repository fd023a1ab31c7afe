// One line a figure, with the figure that is asked for beside it.

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

/** Prints a figure; "ok" or "MISSED" when a least or largest value is asked for. Absolute times depend on the machine. */
export function row(what: string, value: number, unit: string, least?: number, most?: number): void {
  const shown = Math.abs(value) >= 100 ? value.toFixed(0) : value.toFixed(2);
  const wanted = least !== undefined ? `at least ${least}` : most !== undefined ? `at most ${most}` : "";
  const good = (least === undefined || value >= least) && (most === undefined || value <= most);
  console.log(
    `${what.padEnd(58)}${shown.padStart(9)} ${unit.padEnd(12)} ${wanted.padEnd(14)} ${wanted ? (good ? "ok" : "MISSED") : ""}`
  );
}
