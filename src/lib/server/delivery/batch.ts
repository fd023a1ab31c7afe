// What all files of one delivery share: the project as it was, and the settings. Kept as a file, once for all of its jobs.
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { deliverySettingsSchema } from "$lib/core/delivery/settings";
import { Document, type DocumentJson } from "$lib/core/session/document";
import { config } from "../config";
import { UserFault } from "../faults";
import { exportsFolder } from "../media/paths";
import { partName, syncFile } from "../media/store";

const batchSchema = z.object({
  date: z.coerce.date(),
  settings: deliverySettingsSchema,
  document: z.custom<DocumentJson>((value) => typeof value === "object" && value !== null)
});

export const BATCH_ENDING = ".delivery.json";

function batchFile(id: string): string {
  return path.join(exportsFolder(config.dataFolder), `${path.basename(id)}${BATCH_ENDING}`);
}

export function writeBatch(id: string, batch: z.infer<typeof batchSchema>): void {
  const file = batchFile(id);
  mkdirSync(path.dirname(file), { recursive: true });
  const part = partName(file);
  writeFileSync(part, JSON.stringify(batch));
  syncFile(part);
  renameSync(part, file);
}

/** @throws UserFault when it is not kept any more */
export function readBatch(id: string) {
  const file = batchFile(id);
  if (!existsSync(file))
    throw new UserFault(410, "What was to be delivered is no longer kept. Order it again.");
  const { document, ...rest } = batchSchema.parse(JSON.parse(readFileSync(file, "utf8")));
  return { ...rest, document: Document.fromJson(document) };
}
