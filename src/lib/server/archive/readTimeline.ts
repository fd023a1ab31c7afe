// Reading a bundle of OpenTimelineIO: a ZIP with a timeline and, beside it, its media.
import path from "node:path";
import type { Entry } from "yauzl";
import { mediaOf, parseOtio, rateOfTimeline } from "$lib/core/exchange/fromOtio";
import { FileFault } from "$lib/core/formats/fault";
import { bringIn, type BroughtIn } from "../media/bringIn";
import type { Zip } from "./zip";

/** The timeline of a bundle. */
export function timelineEntry({ entries }: Zip): Entry | undefined {
  return entries.find(({ fileName }) => /^[^/]+\.otio$/.test(fileName));
}

/** A place as the name of an entry: bundles write relative ones, others whole addresses. */
function entryOf(zip: Zip, url: string): Entry | undefined {
  let plain = url;
  try {
    plain = decodeURIComponent(url);
  } catch {
    // A per cent sign that is none of an address.
  }
  const name = plain.replace(/^file:\/\//, "").replace(/^\.\//, "");
  const base = name.split(/[\\/]/).pop() ?? "";
  return (
    zip.entries.find(({ fileName }) => fileName === name) ??
    zip.entries.find(({ fileName }) => fileName === `media/${base}`)
  );
}

/** Media of a timeline that are in its bundle. */
export async function timelineMedia(zip: Zip, entry: Entry) {
  const text = await zip.text(entry);
  try {
    const timeline = parseOtio(text);
    const places = mediaOf(timeline).flatMap((url) => {
      const found = entryOf(zip, url);
      return found ? [{ url, entry: found }] : [];
    });
    return { text, timeline, places };
  } catch (error) {
    throw new FileFault((error as Error).message);
  }
}

/** A file of a bundle as it was imported. */
export interface UnpackedMedia extends BroughtIn {
  readonly url: string;
  readonly name: string;
  /** The file of the bundle, in the job's folder. */
  readonly file: string;
}

/** What of a bundle could be read. */
export interface UnpackedTimeline {
  readonly text: string;
  readonly media: readonly UnpackedMedia[];
  /** Files that could not be used, in words for people. */
  readonly faults: readonly string[];
}

/** Unpacks a bundle: each of its files is imported. One that cannot be used is named, the others go on. */
export async function unpackTimeline(
  zip: Zip,
  entry: Entry,
  dataFolder: string,
  folder: string,
  tick: (share: number) => void
): Promise<UnpackedTimeline> {
  const { text, timeline, places } = await timelineMedia(zip, entry);
  const projectRate = rateOfTimeline(timeline);
  const media: UnpackedMedia[] = [];
  const faults: string[] = [];
  for (const [i, { url, entry: own }] of places.entries()) {
    const name = own.fileName.split("/").pop() ?? own.fileName;
    const file = path.join(folder, `media-${i}`);
    const decodedName = `decoded-${i}.wav`;
    const share = (part: number) => tick((i + part) / places.length);
    try {
      await zip.extract(own, file);
      const options = { fileName: name, dataFolder, scratch: folder, decodedName, sampleRate: projectRate };
      media.push({ url, name, file, ...(await bringIn(file, options, share)) });
    } catch (error) {
      if (!(error instanceof FileFault)) throw error;
      faults.push(`"${name}" cannot be used: ${error.message}`);
    }
  }
  return { text, media, faults };
}
