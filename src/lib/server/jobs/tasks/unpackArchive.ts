import { writeFileSync } from "node:fs";
import path from "node:path";
import { FileFault } from "$lib/core/formats/fault";
import { PROJECT_ENTRY } from "../../archive/contents";
import { unpack } from "../../archive/read";
import { timelineEntry, unpackTimeline } from "../../archive/readTimeline";
import { Zip } from "../../archive/zip";
import { WavFile } from "../../media/wavFile";
import type { Tick, UnpackResult, UnpackTask } from "./task";

/** Where the task leaves the text of the project or timeline: too long for a message between threads. */
export const UNPACKED_TEXT = "unpacked.json";

export async function unpackArchive(task: UnpackTask, tick: Tick): Promise<UnpackResult> {
  const { file, scratch, dataFolder } = task;
  const zip = await Zip.open(file);
  const keep = (text: string) => writeFileSync(path.join(scratch, UNPACKED_TEXT), text);
  try {
    const entry = timelineEntry(zip);
    if (zip.entries.some(({ fileName }) => fileName === PROJECT_ENTRY)) {
      const { project, audio, sources } = await unpack(zip, scratch, tick);
      keep(JSON.stringify(project));
      const recordings = audio.map((hash) => {
        const wav = new WavFile(path.join(scratch, `${hash}.wav`));
        wav.close();
        const { sampleRate, channels, frames } = wav.layout;
        return { hash, sampleRate, channels, frames };
      });
      return { of: "project", recordings, sources };
    }
    if (!entry)
      throw new FileFault(
        "it is no project archive of Wring and no bundle of OpenTimelineIO: it has no project in it"
      );
    const { text, media, faults } = await unpackTimeline(zip, entry, dataFolder, scratch, tick);
    keep(text);
    return { of: "timeline", media, faults };
  } finally {
    zip.close();
  }
}
