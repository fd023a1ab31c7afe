// Delivery settings that come with Wring. Levels are common practice, no source, but for the one that names EBU R 128.
import { standardSettings, withCoding, type DeliverySettings } from "./settings";

export interface DeliveryPreset {
  readonly name: string;
  readonly settings: DeliverySettings;
}

function preset(
  name: string,
  coding: DeliverySettings["coding"],
  change: Partial<DeliverySettings> = {}
): DeliveryPreset {
  return { name, settings: { ...withCoding(standardSettings(), coding), ...change } };
}

export const DELIVERY_PRESETS: readonly DeliveryPreset[] = [
  preset("Keep: WAV, 24 bit, as it is", "wav"),
  preset("Broadcast WAV at -23 LUFS (EBU R 128)", "wav", {
    level: { of: "integrated", to: -23 },
    ceilingDbtp: -1,
    sampleRate: 48000,
    pattern: "{project} {name} {level}"
  }),
  preset("Spoken word for the web: MP3 at -16 LUFS", "mp3", {
    kbps: 128,
    sampleRate: 44100,
    level: { of: "integrated", to: -16 },
    ceilingDbtp: -1
  }),
  preset("Small and good: Opus at -16 LUFS", "opus", {
    kbps: 64,
    sampleRate: 48000,
    level: { of: "integrated", to: -16 },
    ceilingDbtp: -1
  }),
  preset("Music for streaming: FLAC at -14 LUFS", "flac", {
    level: { of: "integrated", to: -14 },
    ceilingDbtp: -1
  }),
  preset("For a disc: WAV, 16 bit, 44.1 kHz", "wav", {
    bits: "int16",
    dither: "shaped",
    sampleRate: 44100,
    ceilingDbtp: -0.3
  })
];
