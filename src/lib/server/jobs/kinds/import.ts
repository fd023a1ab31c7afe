import { existsSync, rmSync } from "node:fs";
import { z } from "zod";
import { resampledLength } from "$lib/core/audio/resampler";
import { faultSentence } from "$lib/core/formats/fault";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { bytesPerSample } from "$lib/core/formats/wavWriter";
import { newRecording } from "$lib/core/session/make";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { recordingIdOf } from "../../media/paths";
import { MediaStore } from "../../media/store";
import { probeOther } from "../../media/decode";
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

/** Bytes of what will be made of a file: of one in another format a WAV file, and of one at another rate a conformed copy. */
async function madeBytes(file: string, sampleRate: number): Promise<number> {
  const sound = (await probeOther(file)) ?? wavLayout(file);
  const frames = sound.frames ?? 0;
  const decoded = "kept" in sound ? frames * sound.channels * bytesPerSample(sound.kept) : 0;
  if (sound.sampleRate === sampleRate) return decoded;
  return decoded + resampledLength(frames, sound.sampleRate, sampleRate) * sound.channels * 4;
}

function wavLayout(file: string): WavLayout {
  const wav = new WavFile(file);
  wav.close();
  return wav.layout;
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
    return { bytes: await madeBytes(file, document.sampleRate), what: `"${fileName}" was not imported` };
  },
  async prepare({ uploadId, fileName }, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const file = uploaded(uploadId, fileName);
    return { kind: "import", dataFolder: config.dataFolder, scratch, file, sampleRate: document.sampleRate };
  },
  async complete({ uploadId, fileName }, result, { projectId, scratch }) {
    const { decoded, hash, frames, fileFrames, channels, sampleRate, before } = result as ImportResult;
    const { document } = await loadProject(projectId);
    const store = new MediaStore(config.dataFolder);
    const file = uploadFile(uploadId);
    store.adopt(decoded ?? file, hash, before === "damaged");
    if (decoded) store.adoptSource(file, hash);
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
