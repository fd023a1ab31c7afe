import { existsSync } from "node:fs";
import type { Readable } from "node:stream";
import { ZipFile } from "yazl";
import { DOCUMENT_VERSION } from "$lib/core/session/schema";
import { config } from "../config";
import { allEdits } from "../db/entityRows";
import { UserFault } from "../faults";
import { exportFileName } from "../jobs/kinds/export";
import { originalPath, sourcePath } from "../media/paths";
import { loadProject } from "../services/projects";
import { hashesIn, PROJECT_ENTRY, type ProjectFile } from "./contents";

/**
 * A project as one ZIP: document, history, audio. Nothing is compressed but the text: sound gets no smaller.
 * @throws UserFault 409 when a recording's audio is missing
 */
export async function archiveProject(
  projectId: string
): Promise<{ readonly name: string; readonly stream: Readable }> {
  const { document } = await loadProject(projectId);
  const project: ProjectFile = {
    kind: "wring-project",
    version: DOCUMENT_VERSION,
    document: document.toJson(),
    edits: await allEdits(projectId)
  };
  const text = JSON.stringify(project);
  const zip = new ZipFile();
  zip.addBuffer(Buffer.from(text), PROJECT_ENTRY);
  const shown = new Map([...document.values("recordings")].map(({ media, name }) => [media, name]));
  for (const hash of hashesIn(text)) {
    const file = originalPath(config.dataFolder, hash);
    const source = sourcePath(config.dataFolder, hash);
    if (existsSync(file)) zip.addFile(file, `audio/${hash}.wav`, { compress: false });
    else if (shown.has(hash))
      throw new UserFault(
        409,
        `The audio of "${shown.get(hash) ?? hash}" is missing from the data folder. Import it again.`
      );
    if (existsSync(source)) zip.addFile(source, `audio/${hash}.source`, { compress: false });
  }
  zip.end();
  return {
    name: exportFileName(document.name, "wring.zip"),
    stream: zip.outputStream as Readable
  };
}
