// Reading a project archive. Nothing of it is believed: names must be as they are made, sizes as they are told, audio what its name says.
import { createWriteStream, statSync } from "node:fs";
import path from "node:path";
import type { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { open, type Entry, type ZipFile } from "yauzl";
import { FileFault } from "$lib/core/formats/fault";
import { documentFault } from "$lib/core/session/validate";
import { Document } from "$lib/core/session/document";
import { hashFile } from "../media/hash";
import { AUDIO_ENTRY, PROJECT_ENTRY, projectFileSchema, type ProjectFile } from "./contents";

const MOST_TEXT = 512 << 20;

function opened(file: string): Promise<ZipFile> {
  return new Promise((resolve, reject) =>
    open(file, { lazyEntries: true, autoClose: false }, (error, zip) =>
      zip
        ? resolve(zip)
        : reject(new FileFault(`it is no ZIP file that can be read (${error?.message ?? "unknown"})`))
    )
  );
}

/** Entries of an archive that are wanted. @throws FileFault when it is none of Wring's */
async function entriesOf(zip: ZipFile): Promise<Entry[]> {
  const entries = await new Promise<Entry[]>((resolve, reject) => {
    const found: Entry[] = [];
    zip.on("entry", (entry: Entry) => {
      if (entry.fileName === PROJECT_ENTRY || AUDIO_ENTRY.test(entry.fileName)) found.push(entry);
      zip.readEntry();
    });
    zip.on("end", () => resolve(found));
    zip.on("error", (error: Error) => reject(new FileFault(`it is damaged (${error.message})`)));
    zip.readEntry();
  });
  if (!entries.some(({ fileName }) => fileName === PROJECT_ENTRY))
    throw new FileFault("it is no project archive of Wring: it has no project.json");
  return entries;
}

function streamOf(zip: ZipFile, entry: Entry): Promise<Readable> {
  return new Promise((resolve, reject) =>
    zip.openReadStream(entry, (error, stream) =>
      stream
        ? resolve(stream)
        : reject(new FileFault(`"${entry.fileName}" in it is damaged (${error?.message ?? ""})`))
    )
  );
}

/** Bytes that an archive takes unpacked. @throws FileFault */
export async function unpackedBytes(file: string): Promise<number> {
  const zip = await opened(file);
  try {
    return (await entriesOf(zip)).reduce((sum, entry) => sum + entry.uncompressedSize, 0);
  } finally {
    zip.close();
  }
}

async function textOf(zip: ZipFile, entry: Entry): Promise<string> {
  if (entry.uncompressedSize > MOST_TEXT) throw new FileFault("its project.json is larger than any project");
  const parts: Buffer[] = [];
  for await (const part of await streamOf(zip, entry)) parts.push(part as Buffer);
  return Buffer.concat(parts).toString("utf8");
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
export async function unpack(file: string, folder: string, tick: (share: number) => void): Promise<Unpacked> {
  const zip = await opened(file);
  try {
    const entries = await entriesOf(zip);
    const all = entries.reduce((sum, entry) => sum + entry.uncompressedSize, 0);
    let done = 0;
    let project: ProjectFile | undefined;
    const found: { hash: string; ending: string }[] = [];
    for (const entry of entries) {
      const [, hash = "", ending = ""] = AUDIO_ENTRY.exec(entry.fileName) ?? [];
      if (hash === "") project = projectOf(await textOf(zip, entry));
      else {
        const target = path.join(folder, `${hash}.${ending}`);
        await pipeline(await streamOf(zip, entry), createWriteStream(target, { flags: "wx" })).catch(
          (error: unknown) => {
            if ((error as NodeJS.ErrnoException).code === "ENOSPC") throw error;
            throw new FileFault(`"${entry.fileName}" in it is damaged (${(error as Error).message})`);
          }
        );
        if (ending === "wav" && hashFile(target, () => undefined, statSync(target).size) !== hash)
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
  } finally {
    zip.close();
  }
}
