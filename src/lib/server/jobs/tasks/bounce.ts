import path from "node:path";
import { Document } from "$lib/core/session/document";
import { eachMixBlock, MIX_STRIDE } from "../../media/eachMixBlock";
import { MadeRecording } from "../../media/madeRecording";
import type { BounceResult, BounceTask, Tick } from "./task";

/** Share of the time that hashing takes. */
const HASHING = 0.1;

export function bounce({ document: json, from, to, files, scratch }: BounceTask, tick: Tick): BounceResult {
  const document = Document.fromJson(json);
  const file = "bounce.wav";
  const made = new MadeRecording(path.join(scratch, file), document.sampleRate);
  const take = (left: number, frames: number) => made.write(left, left + MIX_STRIDE, frames);
  try {
    eachMixBlock(document, files, { from, to }, take, (s) => tick((1 - HASHING) * s));
    const hash = made.finish((s) => tick(1 - HASHING + s * HASHING));
    return { hash, file, frames: to - from };
  } finally {
    made.abandon();
  }
}
