// A project as a bundle of OpenTimelineIO (.otioz): timeline and audio in one ZIP.
import { existsSync } from "node:fs";
import type { Readable } from "node:stream";
import { ZipFile } from "yazl";
import { distinct } from "$lib/core/delivery/names";
import { toOtio } from "$lib/core/exchange/toOtio";
import { recordingsByName } from "$lib/core/session/lookup";
import { config } from "../config";
import { UserFault } from "../faults";
import { exportFileName } from "../jobs/kinds/export";
import { originalPath } from "../media/paths";
import { loadProject } from "../services/projects";

/** Version of the bundle, by OpenTimelineIO's description of it. */
const BUNDLE_VERSION = "1.0.0";

/** @throws UserFault 409 when a recording's audio is missing */
export async function timelineBundle(
  projectId: string
): Promise<{ readonly name: string; readonly stream: Readable }> {
  const { document } = await loadProject(projectId);
  const used = new Set([...document.values("clips")].map((clip) => clip.content.recordingId));
  const recordings = recordingsByName(document).filter(({ id }) => used.has(id));
  const names = distinct(recordings.map(({ name }) => `${name.replace(/[^\p{L}\p{N} ._-]/gu, "_")}.wav`));
  const places = new Map(recordings.map(({ id }, i) => [id, `media/${names[i] ?? id}`]));
  const zip = new ZipFile();
  const timeline = toOtio(document, (id) => places.get(id) ?? "");
  zip.addBuffer(Buffer.from(JSON.stringify(timeline, null, 2)), "content.otio");
  zip.addBuffer(Buffer.from(BUNDLE_VERSION), "version.txt");
  for (const { id, name, media } of recordings) {
    const file = media === null ? "" : originalPath(config.dataFolder, media);
    if (!existsSync(file))
      throw new UserFault(409, `The audio of "${name}" is missing from the data folder. Import it again.`);
    zip.addFile(file, places.get(id) ?? name, { compress: false });
  }
  zip.end();
  return {
    name: exportFileName(document.name, "otioz"),
    stream: zip.outputStream as Readable
  };
}
