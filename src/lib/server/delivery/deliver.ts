// One item becomes one file: its sound, its level, its coding, and what the written file measures.
import { rmSync } from "node:fs";
import path from "node:path";
import { CODINGS } from "$lib/core/delivery/codings";
import type { DeliveryItem } from "$lib/core/delivery/items";
import { correction, deliveryGain, MOST_ROUNDS, shortfall } from "$lib/core/delivery/level";
import { marksOf } from "$lib/core/delivery/marks";
import { rateOf, type DeliverySettings } from "$lib/core/delivery/settings";
import type { Measurement } from "$lib/core/measure/meter";
import type { Document } from "$lib/core/session/document";
import type { RecordingFiles } from "../media/fileSource";
import { decodedFile } from "../media/decode";
import { replaceChunk, WavWriter } from "../media/wavFile";
import { code } from "./coder";
import { intoVideo, videoIsLossy, type VideoFile } from "./intoVideo";
import { measureShaped, measureWav } from "./measured";
import { ShapedSound } from "./shaped";
import { spool } from "./spool";
import { bextLoudness, extensionOf, wavChunksOf, type FileFacts } from "./wavChunks";

export interface Delivery {
  readonly document: Document;
  readonly item: DeliveryItem;
  readonly settings: DeliverySettings;
  readonly files: RecordingFiles;
  /** When it was ordered. */
  readonly date: Date;
  /** The video into which the sound goes; its item is of that kind. */
  readonly video?: VideoFile | undefined;
  /** An empty folder for what is under way; the file comes to lie in it. */
  readonly folder: string;
}

export interface Delivered {
  /** The file, in the folder. */
  readonly file: string;
  /** Of the file as it is read again. */
  readonly frames: number;
  readonly sampleRate: number;
  readonly channels: number;
  /** Of the written file, decoded again. */
  readonly measurement: Measurement;
  readonly gainDb: number;
  /** By how much its level was missed because the ceiling came first, in dB. */
  readonly shortDb: number;
  /** By how much coding raised the true peak, in dB; null for silence. */
  readonly overshootDb: number | null;
  /** How often it was written until its level and its ceiling held. */
  readonly rounds: number;
}

/** Shares of the work. */
const SPOOL = 0.5;
const MEASURE = 0.6;

/** Writes the file with a gain. */
async function write(
  sound: ShapedSound,
  gainDb: number,
  { settings, folder, video }: Delivery,
  facts: FileFacts,
  target: string,
  tick: (share: number) => void
): Promise<void> {
  const { coding, bits, dither } = settings;
  const plain = coding === "wav" && !video;
  const wav = plain ? target : path.join(folder, "samples.wav");
  rmSync(wav, { force: true });
  // What a lossy coder is given is not rounded: it has no steps.
  const format = video || CODINGS[coding].lossy ? "float32" : bits;
  const chunks = plain ? wavChunksOf(settings, facts) : [];
  const writer = new WavWriter(wav, format, sound.channels, sound.sampleRate, dither, chunks);
  try {
    sound.read(
      gainDb,
      (src, stride, n) => writer.write(src, stride, n),
      (share) => tick(share * 0.4)
    );
    writer.finish();
  } finally {
    writer.abandon();
  }
  if (plain) return;
  const coded = (share: number) => tick(0.4 + share * 0.6);
  if (video) await intoVideo(video, wav, target, coded);
  else await code(wav, settings, facts.markers, folder, target, coded);
  rmSync(wav, { force: true });
}

/** Levels and length of the file as others will read it. */
async function readAgain(file: string, folder: string, tick: (share: number) => void) {
  const decoded = path.join(folder, "again.wav");
  rmSync(decoded, { force: true });
  const other = await decodedFile(file, decoded, (share) => tick(share / 2));
  try {
    return measureWav(other ? decoded : file, (share) => tick(other ? 0.5 + share / 2 : share));
  } finally {
    rmSync(decoded, { force: true });
  }
}

/** Makes a file of an item. @throws FileFault when ffmpeg is needed and missing, or fails */
export async function deliver(delivery: Delivery, tick: (share: number) => void): Promise<Delivered> {
  const { document, item, settings, files, date, folder, video } = delivery;
  const sampleRate = video?.sampleRate ?? rateOf(settings, document.sampleRate);
  const { extension } = CODINGS[settings.coding];
  const lossy = video ? videoIsLossy(video.container) : CODINGS[settings.coding].lossy;
  const target = path.join(folder, `delivered.${video?.container ?? extension}`);
  const spooled = spool(document, item, settings.channels, sampleRate, files, folder, (s) => tick(s * SPOOL));
  const sound = new ShapedSound(spooled, settings);
  const { channels } = sound;
  try {
    const measured = measureShaped(sound, (s) => tick(SPOOL + s * (MEASURE - SPOOL)));
    const ratio = sampleRate / document.sampleRate;
    const cut = sound.cut - sound.before;
    const facts: FileFacts = {
      project: document.name,
      name: item.name,
      date,
      sampleRate,
      channels,
      timeReference: Math.max(0, Math.round(item.from * ratio) + cut),
      markers: marksOf(document, item, { ratio, cut, frames: sound.frames })
    };
    let gainDb = deliveryGain(measured, settings);
    let raised = false;
    for (let rounds = 1; ; rounds++) {
      const begin = MEASURE + (1 - MEASURE) * (1 - 0.5 ** (rounds - 1));
      const share = (part: number) => tick(begin + part * (1 - begin) * 0.5);
      await write(sound, gainDb, delivery, facts, target, (s) => share(s / 2));
      const again = await readAgain(target, folder, (s) => share(0.5 + s / 2));
      const more = correction(again.measurement, settings);
      // Raised once at most: then it only comes down, so that it ends.
      if (more < 0 ? rounds < MOST_ROUNDS : more > 0 && !raised && lossy) {
        raised ||= more > 0;
        gainDb += more;
        continue;
      }
      if (settings.coding === "wav" && !video)
        replaceChunk(target, extensionOf(settings, facts, bextLoudness(again.measurement)));
      const overshoot = again.measurement.truePeakDbtp - (measured.truePeakDbtp + gainDb);
      return {
        file: target,
        frames: again.frames,
        sampleRate,
        channels,
        measurement: again.measurement,
        gainDb,
        shortDb: shortfall(again.measurement, settings),
        overshootDb: Number.isFinite(overshoot) ? overshoot : null,
        rounds
      };
    }
  } finally {
    sound.close();
    rmSync(spooled, { force: true });
  }
}
