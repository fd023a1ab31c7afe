// An item's sound as it is delivered, before its level: a file of 32-bit floats at the rate it will have.
import { rmSync } from "node:fs";
import path from "node:path";
import { documentOfItem, type DeliveryItem } from "$lib/core/delivery/items";
import type { DeliverySettings } from "$lib/core/delivery/settings";
import { kernels } from "$lib/core/kernels/instance";
import type { Document } from "$lib/core/session/document";
import { conform } from "../media/conform";
import { eachMixBlock, MIX_STRIDE } from "../media/eachMixBlock";
import type { RecordingFiles } from "../media/fileSource";
import { WavWriter } from "../media/wavFile";

/** Share of the work that computing the sound is, where its rate is changed too. */
const COMPUTING = 0.8;

/** Half of left plus half of right, on both sides. */
function fold(left: number, frames: number): void {
  const right = left + MIX_STRIDE;
  kernels.gain(left, frames, 0.5);
  kernels.addScaled(left, right, frames, 0.5);
  kernels.copy(right, left, frames);
}

function computed(
  document: Document,
  item: DeliveryItem,
  channels: DeliverySettings["channels"],
  files: RecordingFiles,
  target: string,
  tick: (share: number) => void
): void {
  const count = channels === "mono" ? 1 : 2;
  const writer = new WavWriter(target, "float32", count, document.sampleRate, "none");
  const take = (left: number, frames: number) => {
    if (channels !== "stereo") fold(left, frames);
    writer.write(left, MIX_STRIDE, frames);
  };
  try {
    eachMixBlock(document, files, item, take, tick);
    writer.finish();
  } finally {
    writer.abandon();
  }
}

/**
 * Writes an item's sound into a folder: the mix of the document, or what one track, clip or recording gives alone; folded to mono
 * as half of left plus half of right.
 * @returns the file
 */
export function spool(
  document: Document,
  item: DeliveryItem,
  channels: DeliverySettings["channels"],
  sampleRate: number,
  files: RecordingFiles,
  folder: string,
  tick: (share: number) => void
): string {
  const file = path.join(folder, "sound.wav");
  const same = document.sampleRate === sampleRate;
  const alone = documentOfItem(document, item);
  computed(alone, item, channels, files, file, (share) => tick(same ? share : share * COMPUTING));
  if (same) return file;
  const conformed = path.join(folder, "conformed.wav");
  conform(file, sampleRate, conformed, (share) => tick(COMPUTING + share * (1 - COMPUTING)));
  rmSync(file, { force: true });
  return conformed;
}
