import path from "node:path";

// Everything is named by the hash of a recording's content. No name that a client sends ever becomes part of a path.

function folder(data: string, hash: string): string {
  return path.join(data, "media", hash.slice(0, 2));
}

/** The original file of a recording. */
export function originalPath(data: string, hash: string): string {
  return path.join(folder(data, hash), `${hash}.wav`);
}

/** The recording conformed to another rate. A cache: rebuilt when missing. */
export function conformedPath(data: string, hash: string, sampleRate: number): string {
  return path.join(folder(data, hash), `${hash}.${sampleRate}.wav`);
}

/** The waveform overview at a rate. A cache: rebuilt when missing. */
export function overviewPath(data: string, hash: string, sampleRate: number): string {
  return path.join(folder(data, hash), `${hash}.${sampleRate}.overview`);
}

/** Short id of a recording, from its content. */
export function recordingIdOf(hash: string): string {
  return hash.slice(0, 24);
}

export function uploadsFolder(data: string): string {
  return path.join(data, "uploads");
}

export function exportsFolder(data: string): string {
  return path.join(data, "exports");
}

/** Scratch files of one job; removed when it ends, however it ends. */
export function jobFolder(data: string, jobId: string): string {
  return path.join(data, "scratch", jobId);
}
