// Everything is named by the hash of a recording's content. No name that a client sends ever becomes part of a path.
import path from "node:path";

/** Changes when conforming gives other samples; older files are then made anew. */
const CONFORM_VERSION = 1;
/** Changes when overviews are written in another way. */
const OVERVIEW_VERSION = 2;
/** Changes when copies of pictures are made in another way. */
const PICTURE_VERSION = 1;

export function mediaFolder(data: string): string {
  return path.join(data, "media");
}

function folder(data: string, hash: string): string {
  return path.join(mediaFolder(data), hash.slice(0, 2));
}

/** The original file of a recording. */
export function originalPath(data: string, hash: string): string {
  return path.join(folder(data, hash), `${hash}.wav`);
}

/** The file as it was given, where the recording's WAV file was decoded from it. */
export function sourcePath(data: string, hash: string): string {
  return path.join(folder(data, hash), `${hash}.source`);
}

/** Name of the recording conformed to another rate. A cache: made anew when it is missing, cut short, or of an older version. */
export function conformedName(hash: string, sampleRate: number): string {
  return `${hash}.${sampleRate}.c${CONFORM_VERSION}.wav`;
}

/** Name of the waveform overview at a rate. A cache like a conformed file. */
export function overviewName(hash: string, sampleRate: number): string {
  return `${hash}.${sampleRate}.o${OVERVIEW_VERSION}.overview`;
}

export function conformedPath(data: string, hash: string, sampleRate: number): string {
  return path.join(folder(data, hash), conformedName(hash, sampleRate));
}

export function overviewPath(data: string, hash: string, sampleRate: number): string {
  return path.join(folder(data, hash), overviewName(hash, sampleRate));
}

/** Name of the small copy of a video's picture. A cache: made when a browser cannot show the video. */
export function pictureName(hash: string): string {
  return `${hash}.p${PICTURE_VERSION}.mp4`;
}

export function picturePath(data: string, hash: string): string {
  return path.join(folder(data, hash), pictureName(hash));
}

/** What a file in the media folder is, by its name; undefined when it is nothing of ours. */
export function mediaFileOf(
  name: string
): { readonly hash: string; readonly kind: "original" | "source" | "cache" | "outdated" } | undefined {
  const source = /^([0-9a-f]{64})\.source$/.exec(name);
  if (source?.[1]) return { hash: source[1], kind: "source" };
  const picture = /^([0-9a-f]{64})\.p(\d+)\.mp4$/.exec(name);
  if (picture?.[1])
    return { hash: picture[1], kind: Number(picture[2]) === PICTURE_VERSION ? "cache" : "outdated" };
  const match = /^([0-9a-f]{64})(?:\.(\d+))?(?:\.(?:c(\d+)|o(\d+)))?\.(wav|overview)$/.exec(name);
  if (!match?.[1]) return undefined;
  const [, hash, rate, conform, overview] = match;
  if (rate === undefined) return { hash, kind: "original" };
  const current = Number(conform) === CONFORM_VERSION || Number(overview) === OVERVIEW_VERSION;
  return { hash, kind: current ? "cache" : "outdated" };
}

/** Short id of a recording, from its content. */
export function recordingIdOf(hash: string): string {
  return hash.slice(0, 24);
}

/** Id of the audio behind a recording's entry: entries that were made independent have a suffix. */
export function audioIdOf(recordingId: string): string {
  return /^([0-9a-f]{24})-/.exec(recordingId)?.[1] ?? recordingId;
}

export function uploadsFolder(data: string): string {
  return path.join(data, "uploads");
}

export function exportsFolder(data: string): string {
  return path.join(data, "exports");
}

export function scratchFolder(data: string): string {
  return path.join(data, "scratch");
}

/** Scratch files of one job; removed when it ends, however it ends. */
export function jobFolder(data: string, jobId: string): string {
  return path.join(scratchFolder(data), jobId);
}
