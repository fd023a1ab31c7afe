import { existsSync, statSync } from "node:fs";
import path from "node:path";
import { FileFault } from "$lib/core/formats/fault";
import { videoText } from "$lib/core/session/pictures";
import type { About } from "$lib/core/session/schema";
import { formatTime } from "$lib/core/units/time";
import { aboutFile } from "$lib/server/media/about/about";
import { probeOther } from "$lib/server/media/decode";
import type { ProbedSound } from "$lib/server/media/decode/probe";
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
  /** What the file says of itself; places in its own frames. */
  readonly about: Omit<About, "file" | "stream">;
}

function infoOf(file: string, other: ProbedSound | undefined): Info {
  const source = other ?? layoutOf(file);
  const { sampleRate, channels } = source;
  const frames = source.frames ?? null;
  const {
    file: _,
    stream: __,
    ...about
  } = aboutFile(file, path.basename(file), source, sampleRate, frames ?? Infinity);
  return {
    file,
    format: "told" in source ? source.format : "wav",
    codec: "told" in source ? source.codec : source.kind,
    sampleRate,
    channels,
    frames,
    durationSeconds: frames === null ? null : frames / sampleRate,
    about
  };
}

function layoutOf(file: string): WavFile["layout"] {
  const wav = new WavFile(file);
  wav.close();
  return wav.layout;
}

async function examined(file: string): Promise<Info> {
  if (!existsSync(file)) throw new CouldNot(`"${file}" is not there`);
  if (!statSync(file).isFile()) throw new CouldNot(`"${file}" is not a file`);
  try {
    return infoOf(file, await probeOther(file));
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    throw new CouldNot(`"${file}" cannot be used: ${error.message}`, { cause: error });
  }
}

function lines({ file, sampleRate, channels, frames, durationSeconds, about }: Info): string {
  const length =
    frames === null || durationSeconds === null
      ? "length not told"
      : `${formatTime(durationSeconds, 3)}, ${frames} frames`;
  const at = (frame: number) => formatTime(frame / sampleRate, 3);
  const { video, origin, note, tags, sounds, markers } = about;
  return [
    file,
    `${about.format}, ${sampleRate} Hz, ${channels} ${channels === 1 ? "channel" : "channels"}, ${length}`,
    ...(note ? [`not exact: ${note}`] : []),
    ...(video ? [`video: ${videoText(video)}`] : []),
    ...(sounds.length > 0 ? [`sound tracks: ${sounds.map(({ name }) => name).join("; ")}`] : []),
    ...(origin ? [`original time: ${at(origin)}`] : []),
    ...Object.entries(tags).map(([name, value]) => `${name}: ${value.replace(/\s+/g, " ")}`),
    ...markers.map(({ name, start, length }) =>
      length > 0 ? `section ${at(start)} to ${at(start + length)}: ${name}` : `marker ${at(start)}: ${name}`
    )
  ]
    .join("\n  ")
    .concat("\n");
}

export const info: Command = {
  usage: "info FILE… [--json]",
  summary: "what files hold: format, rate, channels, length, and what they say of themselves",
  help: [
    "  --json             print an array of objects: file, format, codec, sampleRate, channels, frames, durationSeconds,",
    "                     about (format, tags, origin, markers, video, sounds, note)",
    "",
    "Of a file with several sounds the one that it plays by itself. Nothing is decoded."
  ],
  async run(args) {
    const options = parse(args, { json: { type: "boolean" } });
    if (options.files.length === 0) throw new UsageFault("info wants at least one file");
    const rows: Info[] = [];
    for (const file of options.files) rows.push(await examined(file));
    return options.flag("json") ? json(rows) : rows.map(lines).join("");
  }
};
