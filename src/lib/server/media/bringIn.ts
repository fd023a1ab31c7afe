// A file of any format becomes what a recording is made of: a WAV file, its hash, its caches, and what the file says of itself.
import path from "node:path";
import type { About } from "$lib/core/session/schema";
import { aboutFile } from "./about/about";
import { decodedFile, type DecodeOptions } from "./decode";
import type { Findings } from "./findings";
import { findingsOf, ingest } from "./ingest";
import type { FileState } from "./store";

/** Share of the work that decoding is. */
const DECODING = 0.7;

export interface BringInOptions extends Pick<DecodeOptions, "stream" | "partial" | "sound"> {
  /** Name of the file for people. */
  readonly fileName: string;
  readonly dataFolder: string;
  /** Folder for what is made, and how the WAV file in it is called. */
  readonly scratch: string;
  readonly decodedName: string;
  /** The project's. */
  readonly sampleRate: number;
}

export interface BroughtIn {
  /** The WAV file that was made of one in another format; null for a WAV file. */
  readonly decoded: string | null;
  readonly hash: string;
  /** Frames at the project's rate, and at the file's own. */
  readonly frames: number;
  readonly fileFrames: number;
  readonly channels: number;
  readonly sampleRate: number;
  /** What the store had of this content before. */
  readonly before: FileState;
  readonly about: About;
}

/** @throws FileFault when the file cannot be used */
export async function bringIn(
  file: string,
  { fileName, dataFolder, scratch, decodedName, sampleRate, ...decoding }: BringInOptions,
  tick: (share: number) => void
): Promise<BroughtIn> {
  const target = path.join(scratch, decodedName);
  let found: Findings | undefined;
  try {
    const decoded = await decodedFile(file, target, (share) => tick(share * DECODING), {
      ...decoding,
      findings: (sound) => (found = findingsOf({ ...sound, kind: sound.kept }, sampleRate, scratch))
    });
    const begin = decoded ? DECODING : 0;
    const { hash, layout, frames, before, loudness } = ingest(
      decoded ? target : file,
      dataFolder,
      sampleRate,
      scratch,
      (share) => tick(begin + share * (1 - begin)),
      found,
      decoded?.hash
    );
    return {
      decoded: decoded ? target : null,
      hash,
      frames,
      fileFrames: layout.frames,
      channels: layout.channels,
      sampleRate: layout.sampleRate,
      before,
      about: { ...aboutFile(file, fileName, decoded ?? layout, sampleRate, frames), loudness }
    };
  } finally {
    found?.close();
  }
}
