import { existsSync, rmSync } from "node:fs";
import { z } from "zod";
import { resampledLength } from "$lib/core/audio/resampler";
import { faultSentence } from "$lib/core/formats/fault";
import { newRecording } from "$lib/core/session/make";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { recordingIdOf } from "../../media/paths";
import { MediaStore } from "../../media/store";
import { WavFile } from "../../media/wavFile";
import { closeReaders } from "../../services/audio";
import { markRecording } from "../../services/condition";
import { loadProject } from "../../services/projects";
import { uploadFile } from "../../uploadFiles";
import type { ImportResult } from "../tasks/task";
import { jobKind } from "./kind";

/** "Engineer 2.wav" → "Engineer 2". */
export function nameOfFile(fileName: string): string {
  const base = fileName.split(/[\\/]/).pop() ?? fileName;
  return (
    base
      .replace(/\.[A-Za-z0-9]{1,5}$/, "")
      .trim()
      .slice(0, 120) || "Recording"
  );
}

function uploaded(uploadId: string, fileName: string): string {
  const file = uploadFile(uploadId);
  if (!existsSync(file)) throw new UserFault(410, faultSentence(fileName, "its upload is gone"));
  return file;
}

/** Bytes of the conformed copy that a file will need. */
function conformedBytes(file: string, sampleRate: number): number {
  const wav = new WavFile(file);
  const { layout } = wav;
  wav.close();
  if (layout.sampleRate === sampleRate) return 0;
  return resampledLength(layout.frames, layout.sampleRate, sampleRate) * layout.channels * 4;
}

/** An upload becomes a recording of the project. */
export const importing = jobKind({
  kind: "import",
  order: z.object({ kind: z.literal("import"), uploadId: z.string(), fileName: z.string() }),
  resumes: true,
  fault: ({ fileName }, fault) => faultSentence(fileName, fault),
  async room({ uploadId, fileName }, { projectId }) {
    const { document } = await loadProject(projectId);
    const file = uploaded(uploadId, fileName);
    return { bytes: conformedBytes(file, document.sampleRate), what: `"${fileName}" was not imported` };
  },
  async prepare({ uploadId, fileName }, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const file = uploaded(uploadId, fileName);
    return { kind: "import", dataFolder: config.dataFolder, scratch, file, sampleRate: document.sampleRate };
  },
  async complete({ uploadId, fileName }, result, { projectId, scratch }) {
    const { hash, frames, fileFrames, channels, sampleRate, before } = result as ImportResult;
    const { document } = await loadProject(projectId);
    const store = new MediaStore(config.dataFolder);
    store.adopt(uploadFile(uploadId), hash, before === "damaged");
    // Files under this name that are open are those that were damaged.
    if (before === "damaged") closeReaders();
    store.adoptCaches(scratch);
    const id = recordingIdOf(hash);
    const recording = { hash, sampleRate, channels, frames: fileFrames, kind: "import" as const };
    const known = document.get("recordings", id);
    if (known) {
      const repaired = await markRecording(id, "good");
      if (!repaired && before === "good")
        throw new UserFault(
          409,
          faultSentence(fileName, `the same sound is already here as "${known.name}"`)
        );
      return { recording, view: { recordingId: id, repaired: known.name } };
    }
    const facts = { name: nameOfFile(fileName), media: hash, frames, channels, sampleRate };
    return {
      recording,
      command: { type: "recording.add", recording: newRecording(id, { ...facts, kind: "import" }) },
      view: { recordingId: id, repaired: null }
    };
  },
  // Last of all: until the job has ended, it can be done again.
  clear({ uploadId }) {
    rmSync(uploadFile(uploadId), { force: true });
    rmSync(`${uploadFile(uploadId)}.json`, { force: true });
  }
});
