// Files that are dropped or chosen, with the folders that they lie in.
import { compareNames } from "$lib/core/session/nameOrder";

export interface GivenFile {
  readonly file: File;
  /** "Day 1/Interviews"; empty for a file that was given by itself. */
  readonly folder: string;
}

export interface Given {
  readonly files: readonly GivenFile[];
  /** Files in folders that are hidden, or of a kind that holds no sound. */
  readonly leftOut: number;
}

/** Endings of names by which files that ffmpeg decodes go. */
const ENDINGS = [
  ...["wav", "wave", "bwf", "rf64", "bw64", "w64", "aif", "aiff", "aifc", "caf", "flac", "mp2", "mp3", "mp4"],
  ...["m4a", "m4b", "m4v", "aac", "ogg", "oga", "opus", "wma", "wmv", "asf", "ac3", "eac3", "dts", "thd"],
  ...["mlp", "mka", "mkv", "mov", "webm", "avi", "ape", "wv", "tta", "tak", "amr", "au", "snd", "dsf", "dff"],
  ...["mpc", "voc", "sph", "sf", "sox", "iff", "8svx", "mxf", "gxf", "dv", "flv", "mpg", "mpeg", "ts", "mts"],
  ...["m2ts", "3gp"]
];
/** What a file field offers. */
export const ACCEPTED = ["audio/*", "video/*", ...ENDINGS.map((ending) => `.${ending}`)].join(",");

/** Whether a file of a folder may hold sound: others there were not meant. */
function mayHoldSound({ name, type }: File): boolean {
  if (name.startsWith(".")) return false;
  const ending = name.split(".").pop()?.toLowerCase() ?? "";
  return ENDINGS.includes(ending) || /^(audio|video)\//.test(type);
}

/** Those that may hold sound, and how many do not. */
function wanted(files: readonly GivenFile[]): Given {
  const kept = files.filter(({ file, folder }) => folder === "" || mayHoldSound(file));
  return { files: kept, leftOut: files.length - kept.length };
}

/** Files of a file field, which may have been asked for a folder. They come as the disk has them: they are given by folder and name. */
export function chosenFiles(list: Iterable<File>): Given {
  const folders = new Map<string, { name: string; file: File }[]>();
  for (const file of list) {
    const { name } = file;
    const folder = file.webkitRelativePath.split("/").slice(0, -1).join("/");
    const known = folders.get(folder);
    if (known) known.push({ name, file });
    else folders.set(folder, [{ name, file }]);
  }
  const inOrder = [...folders].sort(([a], [b]) => compareNames(a, b));
  return wanted(
    inOrder.flatMap(([folder, inside]) =>
      inside.sort((a, b) => compareNames(a.name, b.name)).map(({ file }) => ({ file, folder }))
    )
  );
}

function fileOf(entry: FileSystemFileEntry): Promise<File> {
  return new Promise((resolve, reject) => entry.file(resolve, reject));
}

async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    // A reader gives some at a time, and none when there are no more.
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject)
    );
    if (some.length === 0) return all;
    all.push(...some);
  }
}

async function below(entry: FileSystemEntry, folder: string): Promise<GivenFile[]> {
  if (entry.isFile) return [{ file: await fileOf(entry as FileSystemFileEntry), folder }];
  const path = folder === "" ? entry.name : `${folder}/${entry.name}`;
  const inside: GivenFile[] = [];
  const entries = await entriesOf(entry as FileSystemDirectoryEntry);
  entries.sort((a, b) => compareNames(a.name, b.name));
  for (const one of entries) inside.push(...(await below(one, path)));
  return inside;
}

/** Files and whole folders of a drop. What was dropped must be asked for before the event is over: call it within. */
export async function droppedFiles(transfer: DataTransfer): Promise<Given> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry());
  if (entries.every((entry) => entry === null)) return chosenFiles(transfer.files);
  const files: GivenFile[] = [];
  for (const entry of entries) if (entry) files.push(...(await below(entry, "")));
  return wanted(files);
}
