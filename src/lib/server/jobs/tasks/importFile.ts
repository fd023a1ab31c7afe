import { bringIn } from "../../media/bringIn";
import type { ImportResult, ImportTask, Tick } from "./task";

export function importFile({ file, ...options }: ImportTask, tick: Tick): Promise<ImportResult> {
  return bringIn(file, { ...options, decodedName: "decoded.wav" }, tick);
}
