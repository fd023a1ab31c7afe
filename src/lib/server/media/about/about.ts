// What is kept of a file that becomes a recording: what it was, and what it says of itself.
import { resampledLength } from "$lib/core/audio/resampler";
import type { About } from "$lib/core/session/schema";
import type { Marker } from "$lib/core/formats/cues";
import { isPicture, sincePicture, type ProbedSound } from "../decode/probe";
import type { WavLayout } from "$lib/core/formats/wavReader";
import { wavFacts, type FileFacts } from "./wavAbout";

const MOST_MARKERS = 2000;
const MOST_TEXT = 1000;
/** Tags that speak of the container, not of the sound. */
const DULL =
  /^(major_brand|minor_version|compatible_brands|encoder|encoded_by|handler_name|vendor_id|duration|.*-eng|itunsmpb|itunnorm|_statistics.*|bps|number_of_.*|creation_time|language|chapter\d+(name)?)$/i;

/** By what ffprobe calls a format and the ending of the file's name: kin have one name there. */
const CONTAINERS: readonly (readonly [RegExp, name: string])[] = [
  [/^mov.* mov$/, "MOV"],
  [/^mov/, "MP4"],
  [/webm.* webm$/, "WebM"],
  [/webm/, "Matroska"],
  [/^avi/, "AVI"],
  [/^asf/, "ASF"],
  [/^mpegts/, "MPEG-TS"],
  [/^mpeg/, "MPEG"]
];

/**
 * The ending by which a video is written again: that of its name where this is one. What only streams or is written badly by others (MXF,
 * MPEG, ASF) becomes Matroska, which holds any pictures.
 */
function endingOf(format: string, fileName: string): string {
  const own = /\.(mp4|m4v|mov|mkv|webm|avi)$/i.exec(fileName)?.[1]?.toLowerCase();
  if (own) return own;
  if (format.startsWith("mov")) return "mp4";
  return format.startsWith("avi") ? "avi" : "mkv";
}

/** Names that are not simply written in capitals. */
const NAMES: Readonly<Record<string, string>> = {
  ogg: "Ogg",
  vorbis: "Vorbis",
  opus: "Opus",
  speex: "Speex",
  wv: "WavPack",
  wavpack: "WavPack",
  w64: "Wave64",
  ac3: "AC-3",
  eac3: "E-AC-3",
  truehd: "TrueHD",
  wmav1: "WMA",
  wmav2: "WMA",
  wmapro: "WMA Pro",
  wmalossless: "WMA Lossless"
};

/** Container and coding, as "MP4, AAC"; one word where they are one. */
function formatName({ format, codec }: ProbedSound, fileName: string): string {
  const nameOf = (word: string) => NAMES[word] ?? word.toUpperCase();
  const known = `${format} ${fileName.split(".").pop()?.toLowerCase() ?? ""}`;
  const container = CONTAINERS.find(([kind]) => kind.test(known))?.[1] ?? nameOf(format.split(",")[0] ?? "");
  const coding = nameOf(codec.replace(/_.*$/, ""));
  // Layers of MPEG audio share a container without a name of its own.
  return container === coding || format === "mp3" ? coding : `${container}, ${coding}`;
}

/** Words for a kind of samples: "16 bit", "32 bit float". */
function wordLength(kind: WavLayout["kind"]): string {
  const [, type = "", bits = ""] = /^(\D+)(\d+)$/.exec(kind) ?? [];
  return type === "float" ? `${bits} bit float` : `${bits} bit`;
}

function ratio(text: string | undefined): number {
  const [over = 0, under = 1] = (text ?? "0/1").split("/").map(Number);
  return under > 0 && Number.isFinite(over / under) ? over / under : 0;
}

/** What ffprobe tells of a file in another format. */
function otherFacts({ told, sampleRate, stream }: ProbedSound): FileFacts {
  const own = told.streams.find((s) => s.index === stream);
  const all = Object.entries({ ...own?.tags, ...told.format?.tags });
  const tags = Object.fromEntries(
    all
      .filter(([name, value]) => !DULL.test(name) && value.trim() !== "")
      .map(([name, value]) => [name.toLowerCase(), value.trim()])
  );
  const markers = told.chapters.map(({ start_time: start, end_time: end, tags: named }, i) => ({
    name: named?.title ?? `Chapter ${i + 1}`,
    start: Math.max(0, Math.round(start * sampleRate)),
    length: Math.max(0, Math.round((end - start) * sampleRate))
  }));
  const reference = Number(told.format?.tags?.time_reference);
  return { tags, markers, origin: Number.isInteger(reference) && reference > 0 ? reference : null };
}

/** The picture of a video, and when the sound begins against it. */
function videoOf(sound: ProbedSound, fileName: string): About["video"] {
  const picture = sound.told.streams.find(isPicture);
  if (!picture) return null;
  return {
    container: endingOf(sound.format, fileName),
    offset: sincePicture(sound),
    width: picture.width ?? 0,
    height: picture.height ?? 0,
    frameRate: ratio(picture.avg_frame_rate)
  };
}

function soundsOf({ told }: ProbedSound): About["sounds"] {
  const sounds = told.streams.filter((s) => s.codec_type === "audio");
  if (sounds.length < 2) return [];
  return sounds.map(({ index, tags, channels = 0, codec_name: codec = "?" }, i) => {
    const told = [tags?.title, tags?.language].filter((text) => text && text !== "und").join(", ");
    return { stream: index, name: `${i + 1}: ${told || codec}, ${channels} ch`.slice(0, 120) };
  });
}

/** Markers within a sound at the project's rate. */
function placed(
  markers: readonly Marker[],
  fileRate: number,
  projectRate: number,
  frames: number
): About["markers"] {
  const at = (frame: number) => Math.min(frames, resampledLength(frame, fileRate, projectRate));
  return markers
    .map(({ name, start, length }) => ({
      name: name.slice(0, 200),
      start: at(start),
      length: at(start + length) - at(start)
    }))
    .filter((marker) => marker.start < frames)
    .slice(0, MOST_MARKERS);
}

/**
 * What is kept of a file.
 * @param source what it is: a WAV file's layout, or what was told of another
 * @param frames of the sound at the project's rate
 */
export function aboutFile(
  file: string,
  fileName: string,
  source: Pick<WavLayout, "kind" | "sampleRate"> | ProbedSound,
  projectRate: number,
  frames: number
): About {
  const other = "told" in source ? source : undefined;
  const { tags, markers, origin } = other ? otherFacts(other) : wavFacts(file);
  const several = other ? soundsOf(other) : [];
  return {
    file: fileName.slice(-255),
    format: "told" in source ? formatName(source, fileName) : `WAV, ${wordLength(source.kind)}`,
    tags: Object.fromEntries(
      Object.entries(tags)
        .slice(0, 40)
        .map(([name, value]) => [name.slice(0, 60), value.slice(0, MOST_TEXT)])
    ),
    origin,
    markers: placed(markers, source.sampleRate, projectRate, frames),
    video: other ? videoOf(other, fileName) : null,
    sounds: several,
    stream: other && several.length > 0 ? other.stream : null,
    note: other?.note ?? null
  };
}
