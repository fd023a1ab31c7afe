// What recordings of a project take of the data folder, and those that have lain in its bin long enough.
import { randomUUID } from "node:crypto";
import { QueryTypes } from "sequelize";
import { z } from "zod";
import { BIN_DAYS, type SizesView } from "$lib/api/space";
import { config } from "../config";
import { database } from "../db/connection";
import { log } from "../log";
import { audioIdOf } from "../media/paths";
import { MediaStore } from "../media/store";
import { edit } from "./edits";
import { loadProject } from "./projects";

const DAY_MS = 86400000;

/** Bytes of the recordings of a project, by their ids. @throws UserFault 404 */
export async function sizesOf(projectId: string): Promise<SizesView> {
  const { document } = await loadProject(projectId);
  const { models } = await database();
  const rows = await models.Recording.findAll({ attributes: ["id", "hash"] });
  const hashes = new Map(rows.map((row) => [row.id, row.hash]));
  const { originals } = new MediaStore(config.dataFolder).usage();
  const sizes: Record<string, number> = {};
  for (const { id } of document.values("recordings")) {
    const hash = hashes.get(audioIdOf(id));
    sizes[id] = hash === undefined ? 0 : (originals.get(hash) ?? 0);
  }
  return sizes;
}

const binnedSchema = z.object({ id: z.string(), binned: z.number() });

/** Takes recordings out of projects that have lain in the bin for 30 days. Their audio stays as long as a history needs it. Returns how many. */
export async function emptyRecordingBins(now = Date.now()): Promise<number> {
  const { sequelize } = await database();
  const rows = await sequelize.query<{ projectId: string; json: string }>(
    "SELECT projectId, json FROM entities WHERE tableName = 'recordings' AND json LIKE '%\"binned\":%'",
    { type: QueryTypes.SELECT }
  );
  const old = rows.flatMap(({ projectId, json }) => {
    const found = binnedSchema.safeParse(JSON.parse(json)).data;
    return found && now - found.binned > BIN_DAYS * DAY_MS ? { projectId, recordingId: found.id } : [];
  });
  for (const { projectId, recordingId } of old) {
    const command = { type: "recording.remove" as const, recordingId };
    const { refused } = await edit(projectId, {
      page: "bin",
      known: Number.MAX_SAFE_INTEGER,
      edits: [{ editId: randomUUID(), base: Number.MAX_SAFE_INTEGER, wish: { command } }]
    });
    for (const { error } of refused)
      log.warn({ projectId, recordingId, error }, "recording stays in the bin");
  }
  return old.length;
}
