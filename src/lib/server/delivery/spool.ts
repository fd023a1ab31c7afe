// An item's sound as it is delivered, before its level: a file of 32-bit floats at the rate it will have.
import { rmSync } from "node:fs";
import path from "node:path";
import { BLOCK } from "$lib/core/audio/block";
import { documentOfItem, type DeliveryItem } from "$lib/core/delivery/items";
import type { DeliverySettings } from "$lib/core/delivery/settings";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { Plan } from "$lib/core/render/graph";
import { MixStream } from "$lib/core/render/mix";
import type { Document } from "$lib/core/session/document";
import { conform } from "../media/conform";
import { FileSource, type RecordingFiles } from "../media/fileSource";
import { WavWriter } from "../media/wavFile";

/** Share of the work that computing the sound is, where its rate is changed too. */
const COMPUTING = 0.8;

function computed(
  document: Document,
  { from, to }: DeliveryItem,
  channels: DeliverySettings["channels"],
  files: RecordingFiles,
  target: string,
  tick: (share: number) => void
): void {
  const source = new FileSource(files, document.sampleRate);
  const mix = new MixStream(new Plan(document), source, from);
  const count = channels === "mono" ? 1 : 2;
  const writer = new WavWriter(target, "float32", count, document.sampleRate, "none");
  const planar = new KernelBuffer(BLOCK * 8);
  const [l, r] = [planar.ptr, planar.ptr + BLOCK * 4];
  try {
    for (let at = from; at < to; at += BLOCK) {
      const n = Math.min(BLOCK, to - at);
      mix.read(l, r, n);
      if (channels !== "stereo") {
        kernels.gain(l, n, 0.5);
        kernels.addScaled(l, r, n, 0.5);
        planar.f32.copyWithin(BLOCK, 0, n);
      }
      writer.write(l, BLOCK * 4, n);
      tick((at + n - from) / (to - from));
    }
    writer.finish();
  } finally {
    writer.abandon();
    mix.release();
    source.close();
    planar.release();
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
