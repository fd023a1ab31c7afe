// A WAV file becomes a file of another coding, by ffmpeg.
import { writeFileSync } from "node:fs";
import path from "node:path";
import type { Marker } from "$lib/core/formats/cues";
import { CODINGS } from "$lib/core/delivery/codings";
import { pictureBlock } from "$lib/core/formats/pictureBlock";
import { TAG_NAMES, type DeliverySettings } from "$lib/core/delivery/settings";
import { layoutOf, runCoder, rawInput } from "./feed";

/** Arguments that say how samples are coded. */
function codingArguments(settings: DeliverySettings): string[] {
  const { coding, mode, kbps, quality, bits } = settings;
  const rate = ["-b:a", `${kbps}k`];
  switch (coding) {
    case "flac":
      return bits === "int16"
        ? ["-c:a", "flac", "-sample_fmt", "s16", "-compression_level", "8"]
        : ["-c:a", "flac", "-sample_fmt", "s32", "-bits_per_raw_sample", "24", "-compression_level", "8"];
    case "mp3":
      return [
        "-c:a",
        "libmp3lame",
        ...(mode === "variable" ? ["-q:a", String(quality)] : rate),
        "-id3v2_version",
        "3"
      ];
    case "opus":
      return ["-c:a", "libopus", ...rate];
    case "vorbis":
      return ["-c:a", "libvorbis", "-q:a", String(quality)];
    case "aac":
      // The edit list counts in the movie's clock: at the sound's own rate the length is exact.
      return ["-c:a", "aac", ...rate];
    case "wav":
      throw new Error("WAV files are written without ffmpeg.");
  }
}

/** A text of an ffmetadata file. */
function escaped(text: string): string {
  return text.replace(/[=;#\\\n]/g, (c) => `\\${c}`);
}

/** Chapters, each to the beginning of the next where they overlap or leave a gap: players know no gaps. */
function chaptersOf(
  markers: readonly Marker[],
  frames: number
): { start: number; end: number; name: string }[] {
  const sorted = [...markers].sort((a, b) => a.start - b.start);
  const starts = sorted.filter((marker, i) => marker.start !== sorted[i - 1]?.start);
  return starts.map(({ start, name }, i) => ({ start, end: starts[i + 1]?.start ?? frames, name }));
}

function clock(seconds: number): string {
  const ms = Math.round(seconds * 1000);
  const two = (n: number) => String(Math.floor(n)).padStart(2, "0");
  return `${two(ms / 3600000)}:${two((ms / 60000) % 60)}:${two((ms / 1000) % 60)}.${String(ms % 1000).padStart(3, "0")}`;
}

/** Tags and chapters as ffmpeg's text of metadata. */
function metadataOf(
  settings: DeliverySettings,
  markers: readonly Marker[],
  frames: number,
  sampleRate: number
): string {
  const lines = [";FFMETADATA1"];
  for (const name of TAG_NAMES)
    if (settings.tags[name] !== "") lines.push(`${name}=${escaped(settings.tags[name])}`);
  const chapters = settings.sections ? chaptersOf(markers, frames) : [];
  // FLAC and Ogg have no chapters of their own; by convention they are comments (CHAPTER fields). ffmpeg's own for Opus are a second late.
  if (["flac", "vorbis", "opus"].includes(settings.coding))
    chapters.forEach(({ start, name }, i) => {
      const number = `CHAPTER${String(i + 1).padStart(3, "0")}`;
      lines.push(`${number}=${clock(start / sampleRate)}`, `${number}NAME=${escaped(name)}`);
    });
  else
    for (const { start, end, name } of chapters)
      lines.push(
        "[CHAPTER]",
        `TIMEBASE=1/${sampleRate}`,
        `START=${start}`,
        `END=${end}`,
        `title=${escaped(name)}`
      );
  return `${lines.join("\n")}\n`;
}

interface Cover {
  readonly mediaType: string;
  readonly picture: Buffer;
}

/** The cover; undefined when there is none or the coding takes none. */
function coverOf({ cover, coding }: DeliverySettings): Cover | undefined {
  const [, mediaType, data] = /^data:(image\/(?:png|jpeg));base64,(.*)$/.exec(cover ?? "") ?? [];
  return mediaType && data && CODINGS[coding].cover
    ? { mediaType, picture: Buffer.from(data, "base64") }
    : undefined;
}

/** The cover as a file. */
function coverFile({ mediaType, picture }: Cover, folder: string): string {
  const file = path.join(folder, `cover.${mediaType === "image/png" ? "png" : "jpg"}`);
  writeFileSync(file, picture);
  return file;
}

/** The cover as a comment: Ogg has no streams of pictures. */
function coverComment({ mediaType, picture }: Cover): string {
  const block = Buffer.from(pictureBlock(mediaType, picture)).toString("base64");
  return `METADATA_BLOCK_PICTURE=${escaped(block)}\n`;
}

const inOgg = ({ coding }: DeliverySettings) => coding === "vorbis" || coding === "opus";

/**
 * Codes a WAV file with tags, chapters and cover.
 * @throws FileFault when ffmpeg is missing, or cannot do it
 */
export async function code(
  wavFile: string,
  settings: DeliverySettings,
  markers: readonly Marker[],
  folder: string,
  target: string,
  tick: (share: number) => void
): Promise<void> {
  const layout = layoutOf(wavFile);
  const { sampleRate, frames } = layout;
  const meta = path.join(folder, "tags.txt");
  const given = coverOf(settings);
  const comment = given && inOgg(settings) ? coverComment(given) : "";
  const texts = metadataOf(settings, markers, frames, sampleRate);
  writeFileSync(meta, texts.replace("\n", `\n${comment}`));
  const cover = given && !inOgg(settings) ? coverFile(given, folder) : undefined;
  const picture = ["-map", "2:v", "-c:v", "copy", "-disposition:v", "attached_pic"];
  await runCoder(
    wavFile,
    layout,
    [
      ...[...rawInput(layout), "-f", "ffmetadata", "-i", `file:${meta}`],
      ...(cover ? ["-i", `file:${cover}`] : []),
      ...["-map", "0:a", ...(cover ? picture : []), "-map_metadata", "1", "-map_chapters", "1"],
      ...codingArguments(settings),
      ...(settings.coding === "aac" ? ["-movie_timescale", String(sampleRate)] : []),
      `file:${target}`
    ],
    tick
  );
}
