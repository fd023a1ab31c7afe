import { existsSync, readFileSync, rmSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { fromOtio, parseOtio } from "$lib/core/exchange/fromOtio";
import { newRecording } from "$lib/core/session/make";
import { DOCUMENT_VERSION } from "$lib/core/session/schema";
import { archiveEntries } from "../../archive/read";
import { timelineEntry, timelineMedia } from "../../archive/readTimeline";
import { projectFileSchema } from "../../archive/contents";
import { Zip } from "../../archive/zip";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { recordingIdOf } from "../../media/paths";
import { MediaStore } from "../../media/store";
import { closeReaders } from "../../services/audio";
import { storeArchived } from "../../services/projects";
import { uploadFile } from "../../uploadFiles";
import { UNPACKED_TEXT } from "../tasks/unpackArchive";
import type { UnpackResult } from "../tasks/task";
import { nameOfFile } from "./import";
import { jobKind } from "./kind";

function sentence(fileName: string, fault: string): string {
  return `"${fileName}" was not opened: ${fault}.`;
}

function given(uploadId: string, fileName: string): string {
  const file = uploadFile(uploadId);
  if (!existsSync(file)) throw new UserFault(410, sentence(fileName, "its upload is gone"));
  return file;
}

/** Sound that is coded may take so many times its bytes as floats. */
const MOST_GROWTH = 12;

/** Bytes of what is unpacked at most: files of a bundle are decoded as well. */
async function unpackedBytes(file: string): Promise<number> {
  const zip = await Zip.open(file);
  try {
    const entry = timelineEntry(zip);
    const own = archiveEntries(zip).reduce((sum, one) => sum + one.uncompressedSize, 0);
    if (own > 0 || !entry) return own;
    const { places } = await timelineMedia(zip, entry);
    return places.reduce((sum, place) => {
      const { uncompressedSize: size, fileName } = place.entry;
      return sum + size * (/\.(wav|aiff?|w64)$/i.test(fileName) ? 2 : MOST_GROWTH);
    }, 0);
  } finally {
    zip.close();
  }
}

type TimelineResult = Extract<UnpackResult, { of: "timeline" }>;

/** Puts the files of a bundle into the store, and makes the project of its timeline. */
function timelineProject(text: string, { media, faults }: TimelineResult, store: MediaStore) {
  for (const { decoded, file, hash, before } of media) {
    store.adopt(decoded ?? file, hash, before === "damaged");
    if (decoded) store.adoptSource(file, hash);
    if (before === "damaged") closeReaders();
  }
  const recordings = new Map(
    media.map(({ url, name, hash, frames, channels, sampleRate, about }) => {
      const facts = {
        name: nameOfFile(name),
        media: hash,
        frames,
        channels,
        sampleRate,
        kind: "import" as const
      };
      return [url, newRecording(recordingIdOf(hash), facts, null, { about })] as const;
    })
  );
  const { document, missing } = fromOtio(parseOtio(text), (url) => recordings.get(url));
  const rows = media.map(({ hash, sampleRate, channels, fileFrames: frames }) => ({
    hash,
    sampleRate,
    channels,
    frames,
    kind: "import" as const
  }));
  const project = {
    kind: "wring-project" as const,
    version: DOCUMENT_VERSION,
    document: document.toJson(),
    edits: []
  };
  return { project, rows, missing: [...faults, ...missing] };
}

/** A project archive or a bundle of OpenTimelineIO becomes a project. It belongs to none while it is under way. */
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
    const unpacked = result as UnpackResult;
    const text = readFileSync(path.join(scratch, UNPACKED_TEXT), "utf8");
    const store = new MediaStore(config.dataFolder);
    // The job's own id: done again after a stop in the middle, it is the same project.
    if (unpacked.of === "timeline") {
      const { project, rows, missing } = timelineProject(text, unpacked, store);
      store.adoptCaches(scratch);
      return { view: { projectId: await storeArchived(jobId, project, rows), missing } };
    }
    const project = projectFileSchema.parse(JSON.parse(text));
    const kinds = new Map(project.document.recordings.map(({ media, kind }) => [media, kind]));
    for (const { hash } of unpacked.recordings) store.adopt(path.join(scratch, `${hash}.wav`), hash);
    for (const hash of unpacked.sources) store.adoptSource(path.join(scratch, `${hash}.source`), hash);
    const rows = unpacked.recordings.map((one) => ({
      ...one,
      kind: kinds.get(one.hash) ?? ("import" as const)
    }));
    return { view: { projectId: await storeArchived(jobId, project, rows), missing: [] } };
  },
  clear({ uploadId }) {
    rmSync(uploadFile(uploadId), { force: true });
    rmSync(`${uploadFile(uploadId)}.json`, { force: true });
  }
});
