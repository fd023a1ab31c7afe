import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import type { DeliveredFile } from "$lib/api/delivery";
import { CODINGS } from "$lib/core/delivery/codings";
import { itemSchema, recordingsOfItem } from "$lib/core/delivery/items";
import { rateOf } from "$lib/core/delivery/settings";
import { config } from "../../config";
import { readBatch } from "../../delivery/batch";
import { videoOfItem } from "../../delivery/videoOfItem";
import { exportsFolder } from "../../media/paths";
import { brokenAmong, filesOf, recordingName } from "../../services/recordings";
import type { DeliverResult } from "../tasks/task";
import { jobKind } from "./kind";

/** What a job is called before the name of its file. */
export const DELIVER_TITLE = "Deliver ";

/** The file that a job delivered; undefined when it is not kept any more. */
export function deliveredPath(jobId: string): string | undefined {
  const folder = exportsFolder(config.dataFolder);
  const [name] = existsSync(folder) ? readdirSync(folder).filter((n) => path.parse(n).name === jobId) : [];
  return name === undefined ? undefined : path.join(folder, name);
}

/** An item of a delivery becomes a file. */
export const delivering = jobKind({
  kind: "deliver",
  order: z.object({
    kind: z.literal("deliver"),
    batch: z.string(),
    item: itemSchema,
    fileName: z.string()
  }),
  resumes: true,
  fault: ({ fileName }, fault) => `"${fileName}" was not delivered: ${fault}.`,
  room({ batch, item, fileName }) {
    const { document, settings } = readBatch(batch);
    const frames = ((item.to - item.from) * rateOf(settings, document.sampleRate)) / document.sampleRate;
    // The sound as it is computed and at another rate, what a coder is given, the file, and the file decoded again.
    return Promise.resolve({
      bytes: Math.round(frames) * 2 * 4 * 4,
      what: `"${fileName}" was not delivered`
    });
  },
  async prepare({ batch, item }, { scratch }) {
    const { document, settings: wanted, date } = readBatch(batch);
    const { video, settings } = videoOfItem(document, item, wanted, config.dataFolder);
    const name = (id: string) => recordingName(document, id);
    return {
      kind: "deliver",
      dataFolder: config.dataFolder,
      scratch,
      document: document.toJson(),
      item,
      settings,
      video,
      date: date.toISOString(),
      files: await filesOf(recordingsOfItem(document, item), document.sampleRate, name)
    };
  },
  async complete({ batch, item, fileName }, result, { jobId }) {
    const { file, ...facts } = result as DeliverResult;
    const { document, settings } = readBatch(batch);
    const folder = exportsFolder(config.dataFolder);
    mkdirSync(folder, { recursive: true });
    const target = path.join(folder, `${path.basename(jobId)}${path.extname(file)}`);
    renameSync(file, target);
    const used = new Set(recordingsOfItem(document, item));
    const broken = (await brokenAmong(document)).filter(({ id }) => used.has(id));
    const view: DeliveredFile = {
      fileName,
      bytes: statSync(target).size,
      ...facts,
      ceilingDbtp: settings.ceilingDbtp,
      lossy: CODINGS[settings.coding].lossy,
      broken: broken.map(({ id }) => recordingName(document, id))
    };
    return { view };
  },
  clear(_order, { jobId }, done) {
    if (done) return;
    const file = deliveredPath(jobId);
    if (file) rmSync(file, { force: true });
  }
});
