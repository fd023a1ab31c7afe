import { existsSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { unpackedBytes } from "../../archive/read";
import { projectFileSchema } from "../../archive/contents";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { MediaStore } from "../../media/store";
import { storeArchived } from "../../services/projects";
import { uploadFile } from "../../uploadFiles";
import { UNPACKED_PROJECT } from "../tasks/unpackArchive";
import type { UnpackResult } from "../tasks/task";
import { jobKind } from "./kind";

function sentence(fileName: string, fault: string): string {
  return `"${fileName}" was not opened: ${fault}.`;
}

function given(uploadId: string, fileName: string): string {
  const file = uploadFile(uploadId);
  if (!existsSync(file)) throw new UserFault(410, sentence(fileName, "its upload is gone"));
  return file;
}

/** A project archive becomes a project. It belongs to none while it is under way. */
export const unpacking = jobKind({
  kind: "unpack",
  order: z.object({ kind: z.literal("unpack"), uploadId: z.string(), fileName: z.string() }),
  resumes: true,
  fault: ({ fileName }, fault) => sentence(fileName, fault),
  async room({ uploadId, fileName }) {
    return { bytes: await unpackedBytes(given(uploadId, fileName)), what: `"${fileName}" was not opened` };
  },
  prepare: ({ uploadId, fileName }, { scratch }) =>
    Promise.resolve({
      kind: "unpack",
      dataFolder: config.dataFolder,
      scratch,
      file: given(uploadId, fileName)
    }),
  async complete(_order, result, { jobId, scratch }) {
    const { recordings, sources } = result as UnpackResult;
    const project = projectFileSchema.parse(
      JSON.parse(readFileSync(path.join(scratch, UNPACKED_PROJECT), "utf8"))
    );
    const store = new MediaStore(config.dataFolder);
    const kinds = new Map(project.document.recordings.map(({ media, kind }) => [media, kind]));
    for (const { hash } of recordings) store.adopt(path.join(scratch, `${hash}.wav`), hash);
    for (const hash of sources) store.adoptSource(path.join(scratch, `${hash}.source`), hash);
    const rows = recordings.map((one) => ({ ...one, kind: kinds.get(one.hash) ?? ("import" as const) }));
    // The job's own id: done again after a stop in the middle, it is the same project.
    const id = await storeArchived(jobId, project, rows);
    return { view: { projectId: id } };
  },
  clear({ uploadId }) {
    rmSync(uploadFile(uploadId), { force: true });
    rmSync(`${uploadFile(uploadId)}.json`, { force: true });
  }
});
