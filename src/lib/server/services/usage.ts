// What takes how much of the data folder.
import { statSync } from "node:fs";
import path from "node:path";
import { BIN_DAYS, type SpaceView } from "$lib/api/space";
import { config } from "../config";
import { database, databaseFile } from "../db/connection";
import { heardFolder } from "../media/heard";
import { exportsFolder, scratchFolder, uploadsFolder } from "../media/paths";
import { MediaStore } from "../media/store";
import { EXPORT_DAYS } from "$lib/api/exportDays";
import { UPLOAD_HOURS } from "../uploads";
import { KEPT_BACKUPS } from "../db/backups";
import { UNUSED_DAYS, unusedRecordings } from "./collection";
import { bytesBelow } from "../media/space";

/** Bytes by what they are for, with the rule by which they go. */
export async function spaceView(): Promise<SpaceView> {
  const { models } = await database();
  const { originals, caches } = new MediaStore(config.dataFolder).usage();
  const unused = await unusedRecordings();
  let usedBytes = 0;
  let unusedBytes = 0;
  for (const row of await models.Recording.findAll({ attributes: ["id", "hash"] })) {
    const bytes = originals.get(row.hash) ?? 0;
    if (unused.has(row.id)) unusedBytes += bytes;
    else usedBytes += bytes;
  }
  const sizeOf = (file: string) => statSync(file, { throwIfNoEntry: false })?.size ?? 0;
  const databaseBytes = ["", "-wal", "-shm"].reduce((n, end) => n + sizeOf(`${databaseFile()}${end}`), 0);
  const below = (folder: string) => bytesBelow(folder);
  return {
    limit: Number.isFinite(config.maxBytes) ? config.maxBytes : null,
    total: bytesBelow(config.dataFolder),
    parts: [
      {
        id: "used",
        bytes: usedBytes,
        rule: "Recordings and renders that a project, its history, the bin or a preset needs."
      },
      {
        id: "unused",
        bytes: unusedBytes,
        rule: `Recordings that nothing needs any more; removed ${UNUSED_DAYS} days after they were last needed.`
      },
      {
        id: "caches",
        bytes: caches,
        rule: "Copies at a project's rate and waveforms; made anew when they are missing."
      },
      {
        id: "exports",
        bytes: below(exportsFolder(config.dataFolder)),
        rule: `Exported files; removed after ${EXPORT_DAYS} days.`
      },
      {
        id: "uploads",
        bytes: below(uploadsFolder(config.dataFolder)),
        rule: `Uploads under way; removed when they have not gone on for ${UPLOAD_HOURS} hours.`
      },
      {
        id: "heard",
        bytes: below(heardFolder(config.dataFolder)),
        rule: "Levels and what steps have learnt, with sound that is kept for a day; made anew when they are missing."
      },
      {
        id: "scratch",
        bytes: below(scratchFolder(config.dataFolder)),
        rule: "What jobs are writing; removed when they end."
      },
      {
        id: "database",
        bytes: databaseBytes,
        rule: `Projects and their history of 5000 edits each; a deleted project stays ${BIN_DAYS} days in the bin.`
      },
      {
        id: "backups",
        bytes: below(path.join(config.dataFolder, "backups")),
        rule: `Copies of the database: the newest ${KEPT_BACKUPS}.`
      }
    ]
  };
}
