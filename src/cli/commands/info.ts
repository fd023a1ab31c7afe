import { existsSync, statSync } from "node:fs";
import { FileFault } from "$lib/core/formats/fault";
import { formatTime } from "$lib/core/units/time";
import { probeOther } from "$lib/server/media/decode";
import { WavFile } from "$lib/server/media/wavFile";
import { parse } from "../args";
import { CouldNot, UsageFault, type Command } from "../outcome";
import { json } from "../report";

interface Info {
  readonly file: string;
  readonly format: string;
  readonly codec: string;
  readonly sampleRate: number;
  readonly channels: number;
  /** null where nothing in the file tells: it must be decoded for that. */
  readonly frames: number | null;
  readonly durationSeconds: number | null;
}

async function infoOf(file: string): Promise<Info> {
  if (!existsSync(file)) throw new CouldNot(`"${file}" is not there`);
  if (!statSync(file).isFile()) throw new CouldNot(`"${file}" is not a file`);
  try {
    const other = await probeOther(file);
    if (other) {
      const { format, codec, sampleRate, channels, frames } = other;
      return described(file, format, codec, sampleRate, channels, frames ?? null);
    }
    const wav = new WavFile(file);
    wav.close();
    const { kind, sampleRate, channels, frames } = wav.layout;
    return described(file, "wav", kind, sampleRate, channels, frames);
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    throw new CouldNot(`"${file}" cannot be used: ${error.message}`, { cause: error });
  }
}

function described(
  file: string,
  format: string,
  codec: string,
  sampleRate: number,
  channels: number,
  frames: number | null
): Info {
  return {
    file,
    format,
    codec,
    sampleRate,
    channels,
    frames,
    durationSeconds: frames === null ? null : frames / sampleRate
  };
}

function line({ file, format, codec, sampleRate, channels, frames, durationSeconds }: Info): string {
  const length =
    frames === null || durationSeconds === null
      ? "length not told"
      : `${formatTime(durationSeconds, 3)}, ${frames} frames`;
  return `${file}\n  ${format}, ${codec}, ${sampleRate} Hz, ${channels} ${channels === 1 ? "channel" : "channels"}, ${length}\n`;
}

export const info: Command = {
  usage: "info FILE… [--json]",
  summary: "what files hold: format, coding, rate, channels, length",
  help: [
    "  --json             print an array of objects: file, format, codec, sampleRate, channels, frames, durationSeconds",
    "",
    "Of a file with several sounds the one that it plays by itself. Nothing is decoded."
  ],
  async run(args) {
    const options = parse(args, { json: { type: "boolean" } });
    if (options.files.length === 0) throw new UsageFault("info wants at least one file");
    const rows: Info[] = [];
    for (const file of options.files) rows.push(await infoOf(file));
    return options.flag("json") ? json(rows) : rows.map(line).join("");
  }
};
