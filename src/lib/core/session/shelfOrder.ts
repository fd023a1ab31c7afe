// The shelf: recordings found, sorted, and laid into their folders.
import { compareNames } from "./nameOrder";
import type { Document } from "./document";
import type { Recording } from "./schema";

export const SHELF_ORDERS = {
  name: "name",
  length: "length",
  rate: "sample rate",
  loudness: "loudness"
} as const;
export type ShelfOrder = keyof typeof SHELF_ORDERS;

export const SHELF_FILTERS = {
  all: "all",
  used: "used",
  unused: "not used",
  video: "of videos",
  rendered: "rendered"
} as const;
export type ShelfFilter = keyof typeof SHELF_FILTERS;

export interface ShelfWish {
  /** Words that all must occur in name, folder, labels, file or tags. */
  readonly words: string;
  readonly order: ShelfOrder;
  readonly filter: ShelfFilter;
}

/** Recordings of a folder of the shelf; "" is its top. */
export interface ShelfFolder {
  readonly path: string;
  readonly recordings: readonly Recording[];
}

/** How many clips show each recording. */
export function clipCounts(doc: Document): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const clip of doc.values("clips")) {
    const { recordingId } = clip.content;
    counts.set(recordingId, (counts.get(recordingId) ?? 0) + 1);
  }
  return counts;
}

function textOf({ name, folder = "", labels = [], about }: Recording): string {
  return [
    name,
    folder,
    ...labels,
    about?.file ?? "",
    about?.format ?? "",
    ...Object.values(about?.tags ?? {})
  ]
    .join(" ")
    .toLowerCase();
}

const byName = (a: Recording, b: Recording) => compareNames(a.name, b.name) || (a.id < b.id ? -1 : 1);

const ORDERS: Readonly<Record<ShelfOrder, (a: Recording, b: Recording) => number>> = {
  name: byName,
  length: (a, b) => b.frames / b.sampleRate - a.frames / a.sampleRate || byName(a, b),
  rate: (a, b) => b.sampleRate - a.sampleRate || byName(a, b),
  loudness: (a, b) => (b.about?.loudness ?? -Infinity) - (a.about?.loudness ?? -Infinity) || byName(a, b)
};

/** Those in the order that they had before, and then the others: what is sorted but for a few is sorted soon. */
function asBefore(recordings: readonly Recording[], before: readonly Recording[]): Recording[] {
  const left = new Map(recordings.map((one) => [one.id, one]));
  const known = before.flatMap(({ id }) => {
    const one = left.get(id);
    left.delete(id);
    return one ?? [];
  });
  return [...known, ...left.values()];
}

/**
 * Folders with what was wished for, by name, the top first.
 * @param before what was said last: of thousands of recordings of which a few are new, only these are compared with many
 */
export function shelfFolders(
  doc: Document,
  { words, order, filter }: ShelfWish,
  before: readonly ShelfFolder[] = []
): ShelfFolder[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const used = clipCounts(doc);
  const fits = (recording: Recording) => {
    if (filter === "used") return used.has(recording.id);
    if (filter === "unused") return !used.has(recording.id);
    if (filter === "video") return (recording.about?.video ?? null) !== null;
    return filter === "all" || recording.kind === "render";
  };
  const folders = new Map<string, Recording[]>();
  for (const recording of doc.values("recordings")) {
    if (recording.binned !== undefined || !fits(recording)) continue;
    const text = wanted.length > 0 ? textOf(recording) : "";
    if (!wanted.every((word) => text.includes(word))) continue;
    const path = recording.folder ?? "";
    const there = folders.get(path);
    if (there) there.push(recording);
    else folders.set(path, [recording]);
  }
  const known = new Map(before.map(({ path, recordings }) => [path, recordings]));
  return [...folders]
    .sort(([a], [b]) => compareNames(a, b))
    .map(([path, recordings]) => ({
      path,
      recordings: asBefore(recordings, known.get(path) ?? []).sort(ORDERS[order])
    }));
}
