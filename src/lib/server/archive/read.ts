// Reading a project archive. Nothing of it is believed: names must be as they are made, sizes as they are told, audio what its name says.
import { statSync } from "node:fs";
import path from "node:path";
import { FileFault } from "$lib/core/formats/fault";
import { documentFault } from "$lib/core/session/validate";
import { Document } from "$lib/core/session/document";
import { isContentOf } from "../media/hash";
import { AUDIO_ENTRY, PROJECT_ENTRY, projectFileSchema, type ProjectFile } from "./contents";
import type { Zip } from "./zip";

/** Entries of an archive that are wanted. */
export function archiveEntries({ entries }: Zip) {
  return entries.filter(({ fileName }) => fileName === PROJECT_ENTRY || AUDIO_ENTRY.test(fileName));
}

function projectOf(text: string): ProjectFile {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new FileFault("its project.json is not JSON");
  }
  const parsed = projectFileSchema.safeParse(json);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new FileFault(
      `its project.json is not right: ${issue?.path.join(".") ?? ""} ${issue?.message ?? ""}`.trim()
    );
  }
  const fault = documentFault(Document.fromJson(parsed.data.document));
  if (fault) throw new FileFault(`its project cannot be opened: ${fault}`);
  return parsed.data;
}

export interface Unpacked {
  readonly project: ProjectFile;
  /** Hashes of audio that now lies in the folder as `HASH.wav`, and of what it was decoded from as `HASH.source`. */
  readonly audio: readonly string[];
  readonly sources: readonly string[];
}

/** Unpacks an archive into a folder and checks all of it. @throws FileFault naming what is wrong */
export async function unpack(zip: Zip, folder: string, tick: (share: number) => void): Promise<Unpacked> {
  const entries = archiveEntries(zip);
  const all = entries.reduce((sum, entry) => sum + entry.uncompressedSize, 0);
  let done = 0;
  let project: ProjectFile | undefined;
  const found: { hash: string; ending: string }[] = [];
  for (const entry of entries) {
    const [, hash = "", ending = ""] = AUDIO_ENTRY.exec(entry.fileName) ?? [];
    if (hash === "") project = projectOf(await zip.text(entry));
    else {
      const target = path.join(folder, `${hash}.${ending}`);
      await zip.extract(entry, target);
      if (ending === "wav" && !isContentOf(hash, target, () => undefined, statSync(target).size))
        throw new FileFault(`the audio "${entry.fileName}" in it is damaged: it is not what its name says`);
      found.push({ hash, ending });
    }
    done += entry.uncompressedSize;
    tick(done / all);
  }
  if (!project) throw new FileFault("it has no project.json");
  const of = (ending: string) => found.filter((one) => one.ending === ending).map(({ hash }) => hash);
  for (const { media, name } of Document.fromJson(project.document).values("recordings"))
    if (media !== null && !of("wav").includes(media))
      throw new FileFault(`the audio of "${name}" is not in it`);
  return { project, audio: of("wav"), sources: of("source") };
}
