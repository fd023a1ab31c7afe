import { existsSync, rmSync } from "node:fs";
import { z } from "zod";
import { resampledLength } from "$lib/core/audio/resampler";
import { faultSentence } from "$lib/core/formats/fault";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { bytesPerSample } from "$lib/core/formats/wavWriter";
import { newRecording } from "$lib/core/session/make";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { recordingIdOf, sourcePath } from "../../media/paths";
import { MediaStore } from "../../media/store";
import { probeOther } from "../../media/decode";
import type { ProbedSound } from "../../media/decode/probe";
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

const order = z.object({
  kind: z.literal("import"),
  /** Empty where it is read from the store. */
  uploadId: z.string(),
  fileName: z.string(),
  /** Folder of the shelf; empty: the top. */
  folder: z.string().default(""),
  /** Hash of the recording whose given file is read once more. */
  source: z.string().optional(),
  /** The sound track to take; the default one when left out. */
  stream: z.number().int().optional(),
  /** Whether what can be read of a cut or damaged file will do. */
  partial: z.boolean().optional(),
  /** Whether it came among others, all of them short. */
  short: z.boolean().optional()
});
type Order = z.infer<typeof order>;

/** Where an import reads: what was sent, or what a recording was decoded from. */
function given({ uploadId, source }: Order, fileName: string): string {
  const file = source === undefined ? uploadFile(uploadId) : sourcePath(config.dataFolder, source);
  if (!existsSync(file)) throw new UserFault(410, faultSentence(fileName, "its upload is gone"));
  return file;
}

/** What files hold whose room has been asked for: asking takes as long as starting ffmpeg, so once is enough. */
const probed = new WeakMap<Order, ProbedSound>();

/** Bytes of what will be made of a file: of one in another format a WAV file, and of one at another rate a conformed copy. */
async function madeBytes(file: string, sampleRate: number, ordered: Order): Promise<number> {
  const { stream, partial } = ordered;
  const other = await probeOther(file, { stream, partial });
  if (other) probed.set(ordered, other);
  const sound = other ?? wavLayout(file);
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

/** A file becomes a recording of the project. */
export const importing = jobKind<Order>({
  kind: "import",
  order: order as z.ZodType<Order>,
  resumes: true,
  light: ({ short }) => short === true,
  fault: ({ fileName }, fault) => faultSentence(fileName, fault),
  async room(ordered, { projectId }) {
    const { document } = await loadProject(projectId);
    const { fileName } = ordered;
    const file = given(ordered, fileName);
    return {
      bytes: await madeBytes(file, document.sampleRate, ordered),
      what: `"${fileName}" was not imported`
    };
  },
  async prepare(ordered, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const { fileName, stream, partial } = ordered;
    const file = given(ordered, fileName);
    const { sampleRate } = document;
    return {
      kind: "import",
      dataFolder: config.dataFolder,
      scratch,
      file,
      fileName,
      sampleRate,
      stream,
      partial,
      sound: probed.get(ordered)
    };
  },
  async complete(ordered, result, { projectId, scratch }) {
    const { decoded, hash, frames, fileFrames, channels, sampleRate, before, about } = result as ImportResult;
    const { fileName, folder, stream } = ordered;
    const { document } = await loadProject(projectId);
    const store = new MediaStore(config.dataFolder);
    const file = given(ordered, fileName);
    // Another file of the same sound may have come in meanwhile.
    const whole = before === "good" || (before === "missing" && store.has(hash));
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
      const binned = known.binned !== undefined;
      const same = !repaired && whole && !binned ? known.name : null;
      return {
        recording,
        ...(binned ? { command: { type: "recording.bin" as const, recordingIds: [id], at: null } } : {}),
        view: { recordingId: id, repaired: same === null && !binned ? known.name : null, same, fileName }
      };
    }
    const track = stream === undefined ? undefined : about.sounds.findIndex((s) => s.stream === stream) + 1;
    const name = track ? `${nameOfFile(fileName)}, sound ${track}` : nameOfFile(fileName);
    const facts = {
      name: name.slice(0, 120),
      media: hash,
      frames,
      channels,
      sampleRate,
      kind: "import" as const
    };
    const from = folder === "" ? { about } : { about, folder };
    return {
      recording,
      command: { type: "recording.add", recording: newRecording(id, facts, null, from) },
      view: { recordingId: id, repaired: null, same: null, fileName }
    };
  },
  // Last of all: until the job has ended, it can be done again.
  clear({ uploadId }) {
    if (uploadId === "") return;
    rmSync(uploadFile(uploadId), { force: true });
    rmSync(`${uploadFile(uploadId)}.json`, { force: true });
  }
});
