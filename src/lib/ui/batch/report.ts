// The report of a batch, as a table and as CSV (RFC 4180).
import type { BatchItem, BatchView } from "$lib/api/batches";
import { csvFormatRows } from "d3";

const STATES: Record<BatchItem["state"], string> = {
  queued: "waits",
  running: "under way",
  done: "done",
  failed: "failed",
  cancelled: "cancelled"
};

export const stateText = (item: BatchItem) => STATES[item.state];

const cell = (value: number | null | undefined) =>
  value === null || value === undefined ? "" : value.toFixed(2);

export function reportCsv({ items }: BatchView): string {
  const head = [
    "name",
    "kind",
    "state",
    "before LUFS",
    "after LUFS",
    "after dBTP",
    "before LRA LU",
    "after LRA LU",
    "recording made",
    "why it failed"
  ];
  const rows = items.map((item) => [
    item.name,
    item.kind,
    stateText(item),
    cell(item.before?.integratedLufs),
    cell(item.after?.integratedLufs),
    cell(item.after?.truePeakDbtp),
    cell(item.before?.loudnessRangeLu),
    cell(item.after?.loudnessRangeLu),
    item.made ?? "",
    item.error ?? ""
  ]);
  return `${csvFormatRows([head, ...rows])}\n`;
}
