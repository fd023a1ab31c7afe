import { mkdirSync, renameSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { bytesPerSample } from "$lib/core/formats/wavWriter";
import { Plan } from "$lib/core/render/graph";
import { Document, type DocumentJson } from "$lib/core/session/document";
import { config } from "../../config";
import { exportsFolder } from "../../media/paths";
import { brokenAmong, filesOf, recordingName } from "../../services/recordings";
import type { ExportResult } from "../tasks/task";
import { jobKind } from "./kind";

/** The file that an export made. */
export function exportPath(jobId: string): string {
  return path.join(exportsFolder(config.dataFolder), `${path.basename(jobId)}.wav`);
}

/** A name without what file systems or headers take amiss. */
export function exportFileName(projectName: string, ending = "wav"): string {
  return `${projectName.replace(/[^\p{L}\p{N} ._-]/gu, "_")}.${ending}`;
}

/** The mix becomes a WAV file. */
export const exporting = jobKind({
  kind: "export",
  order: z.object({
    kind: z.literal("export"),
    from: z.number(),
    to: z.number(),
    format: z.enum(["int16", "int24", "float32"]),
    dither: z.boolean(),
    /** The project as it was when it was ordered. */
    document: z.custom<DocumentJson>((value) => typeof value === "object" && value !== null)
  }),
  resumes: true,
  fault: (_order, fault) => `The mix was not exported: ${fault}.`,
  room: ({ from, to, format }) =>
    Promise.resolve({ bytes: (to - from) * 2 * bytesPerSample(format), what: "The mix was not exported" }),
  async prepare({ document: json, from, to, format, dither }, { scratch }) {
    const document = Document.fromJson(json);
    const ids = new Plan(document).recordings(from, to);
    const files = await filesOf(ids, document.sampleRate, (id) => recordingName(document, id));
    return {
      kind: "export",
      dataFolder: config.dataFolder,
      scratch,
      document: json,
      from,
      to,
      format,
      dither,
      files
    };
  },
  async complete({ document: json }, result, { jobId, scratch }) {
    const { file, frames, measurement } = result as ExportResult;
    const document = Document.fromJson(json);
    mkdirSync(exportsFolder(config.dataFolder), { recursive: true });
    renameSync(path.join(scratch, file), exportPath(jobId));
    const broken = (await brokenAmong(document)).map(({ id }) => recordingName(document, id));
    return {
      view: {
        fileName: exportFileName(document.name),
        frames,
        measurement,
        bytes: statSync(exportPath(jobId)).size,
        broken
      }
    };
  },
  clear(_order, { jobId }, done) {
    if (!done) rmSync(exportPath(jobId), { force: true });
  }
});
