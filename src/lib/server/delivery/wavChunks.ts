// What a delivered WAV file says of itself: broadcast extension, sections, iXML.
import { XMLBuilder } from "fast-xml-parser";
import { bextChunk, type BextLoudness } from "$lib/core/formats/bext";
import { markerChunks, type Marker } from "$lib/core/formats/cues";
import type { Chunk } from "$lib/core/formats/wavChunks";
import type { DeliverySettings } from "$lib/core/delivery/settings";
import type { Measurement } from "$lib/core/measure/meter";

/** What a file is a part of. */
export interface FileFacts {
  readonly project: string;
  /** What is in it. */
  readonly name: string;
  /** When it was ordered. */
  readonly date: Date;
  readonly sampleRate: number;
  readonly channels: number;
  /** Place of its first frame on the timeline, in its own frames. */
  readonly timeReference: number;
  readonly markers: readonly Marker[];
}

const WORD_LENGTH = { int16: "16", int24: "24", float32: "32" } as const;
const MODES = { stereo: "stereo", mono: "mono", "dual-mono": "dual-mono" } as const;

function iso(date: Date): string {
  const two = (n: number) => String(n).padStart(2, "0");
  const day = `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
  return `${day}T${two(date.getHours())}:${two(date.getMinutes())}:${two(date.getSeconds())}`;
}

/** A line of coding history (EBU R 98). */
function codingHistory({ bits, channels }: DeliverySettings, sampleRate: number): string {
  return `A=PCM,F=${sampleRate},W=${WORD_LENGTH[bits]},M=${MODES[channels]},T=Wring\r\n`;
}

/** Loudness fields of what was measured. */
export function bextLoudness(measured: Measurement): BextLoudness {
  const known = (value: number) => (Number.isFinite(value) ? value : undefined);
  return {
    integrated: known(measured.integratedLufs),
    range: known(measured.loudnessRangeLu),
    maxTruePeak: known(measured.truePeakDbtp),
    maxMomentary: known(measured.momentaryMaxLufs),
    maxShortTerm: known(measured.shortTermMaxLufs)
  };
}

/** The broadcast extension. Its length does not depend on the loudness, so that this can be filled in when the file is written. */
export function extensionOf(
  settings: DeliverySettings,
  facts: FileFacts,
  loudness: BextLoudness | null
): Chunk {
  const [date = "", time = ""] = iso(facts.date).split("T");
  return bextChunk({
    description: settings.description || `${facts.project}: ${facts.name}`,
    originator: settings.originator || "Wring",
    originatorReference: settings.reference,
    date,
    time,
    timeReference: facts.timeReference,
    loudness,
    codingHistory: codingHistory(settings, facts.sampleRate)
  });
}

/** iXML, as the public specification 3.01 has it: project, note, and when the first sample was. */
function ixmlChunk({ description, tags }: DeliverySettings, facts: FileFacts): Chunk {
  const rate = facts.sampleRate;
  const text = new XMLBuilder({ ignoreAttributes: false, format: true }).build({
    BWFXML: {
      IXML_VERSION: "3.01",
      PROJECT: facts.project,
      SCENE: facts.name,
      NOTE: tags.comment || description,
      SPEED: {
        FILE_SAMPLE_RATE: rate,
        TIMESTAMP_SAMPLE_RATE: rate,
        TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI: Math.floor(facts.timeReference / 2 ** 32),
        TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO: facts.timeReference % 2 ** 32
      },
      TRACK_LIST: {
        TRACK_COUNT: facts.channels,
        TRACK: Array.from({ length: facts.channels }, (_, i) => ({
          CHANNEL_INDEX: i + 1,
          INTERLEAVE_INDEX: i + 1,
          NAME: facts.channels === 1 ? facts.name : `${facts.name} ${i === 0 ? "L" : "R"}`
        }))
      }
    }
  });
  return { id: "iXML", body: new TextEncoder().encode(`<?xml version="1.0" encoding="UTF-8"?>\n${text}`) };
}

/** All chunks of a file, the broadcast extension first. */
export function wavChunksOf(settings: DeliverySettings, facts: FileFacts): Chunk[] {
  return [
    extensionOf(settings, facts, null),
    ...markerChunks(settings.sections ? facts.markers : []),
    ixmlChunk(settings, facts)
  ];
}
