import { randomUUID } from "node:crypto";
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { CODINGS, type CodingName, type DeliveryRate } from "$lib/core/delivery/codings";
import { itemsOf, recordingsOfItem, type DeliveryItem, type Wanted } from "$lib/core/delivery/items";
import { namesOf, patternFault } from "$lib/core/delivery/names";
import { DELIVERY_PRESETS } from "$lib/core/delivery/presets";
import {
  deliverySettingsSchema,
  settingsFault,
  standardSettings,
  TAG_NAMES,
  withCoding,
  type DeliverySettings,
  type Tags
} from "$lib/core/delivery/settings";
import { FileFault } from "$lib/core/formats/fault";
import { measurementToJson } from "$lib/core/measure/json";
import type { Document } from "$lib/core/session/document";
import { formatDb } from "$lib/core/units/decibels";
import { parseTime } from "$lib/core/units/time";
import { config } from "$lib/server/config";
import { savedDelivery, savedProject } from "$lib/server/db/savedProject";
import { deliver as deliverItem, type Delivered } from "$lib/server/delivery/deliver";
import { videoOfItem } from "$lib/server/delivery/videoOfItem";
import { conform } from "$lib/server/media/conform";
import { conformedPath, originalPath } from "$lib/server/media/paths";
import type { RecordingFiles } from "$lib/server/media/fileSource";
import { numberOf, parse, type Parsed } from "../args";
import { CouldNot, UsageFault, type Command, type Work } from "../outcome";
import { makeFolder } from "../output";
import { columns, json } from "../report";

const FORMS: Readonly<Record<string, Partial<DeliverySettings> & { coding: CodingName }>> = {
  wav16: { coding: "wav", bits: "int16" },
  wav24: { coding: "wav", bits: "int24" },
  wav32f: { coding: "wav", bits: "float32" },
  flac16: { coding: "flac", bits: "int16" },
  flac24: { coding: "flac", bits: "int24" },
  mp3: { coding: "mp3" },
  opus: { coding: "opus" },
  vorbis: { coding: "vorbis" },
  m4a: { coding: "aac" }
};

/** Settings of --as: "flac24", "mp3:192", "mp3:q2", "opus:96". */
function withForm(settings: DeliverySettings, text: string): DeliverySettings {
  const match = /^([a-z0-9]+)(?::(q?)(\d+))?$/.exec(text);
  const form = match?.[1] === undefined ? undefined : FORMS[match[1]];
  if (!match || !form) throw new UsageFault(`--as is one of ${Object.keys(FORMS).join(", ")}, not "${text}"`);
  const made = { ...withCoding(settings, form.coding), ...form };
  if (match[3] === undefined) return made;
  const value = Number(match[3]);
  return match[2] === "q" || !CODINGS[form.coding].kbps
    ? { ...made, mode: "variable", quality: value }
    : { ...made, mode: "constant", kbps: value };
}

function levelOf(text: string): DeliverySettings["level"] {
  const [of, level = ""] = text.split("=");
  if (of !== "integrated" && of !== "true-peak" && of !== "peak")
    throw new UsageFault(`--to is integrated=…, true-peak=… or peak=…, not "${text}"`);
  return { of, to: numberOf(`--to ${of}`, level) };
}

/** Tags of "--tag title=Harbour". */
function tagsOf(texts: readonly string[]): Partial<Tags> {
  return Object.fromEntries(
    texts.map((text) => {
      const [name = "", ...value] = text.split("=");
      if (!TAG_NAMES.includes(name as keyof Tags) || value.length === 0)
        throw new UsageFault(`--tag is NAME=TEXT with ${TAG_NAMES.join(", ")}, not "${text}"`);
      return [name, value.join("=")];
    })
  );
}

/** A picture as settings keep it. Its content says what it is, not its name. */
function coverOf(file: string): string {
  if (!existsSync(file)) throw new CouldNot(`"${file}" is not there`);
  const bytes = readFileSync(file);
  const begin = bytes.toString("hex", 0, 4);
  const kind = begin === "89504e47" ? "png" : begin.startsWith("ffd8") ? "jpeg" : undefined;
  if (kind === undefined) throw new CouldNot(`"${file}" is no PNG or JPEG picture`);
  return `data:image/${kind};base64,${bytes.toString("base64")}`;
}

/** What is too long or too large, in a sentence. */
function schemaFault(settings: DeliverySettings): string | undefined {
  const [issue] = deliverySettingsSchema.safeParse(settings).error?.issues ?? [];
  return issue && `${issue.path.join(" ")}: ${issue.message}`;
}

async function settingsOf(options: Parsed): Promise<DeliverySettings> {
  const preset = options.text("preset");
  let settings = standardSettings();
  if (preset !== undefined) {
    const found =
      DELIVERY_PRESETS.find(({ name }) => name === preset)?.settings ??
      (await savedDelivery(config.dataFolder, preset));
    if (!found)
      throw new CouldNot(
        `There are no delivery settings named "${preset}"; those that come with Wring: ${DELIVERY_PRESETS.map((p) => `"${p.name}"`).join(", ")}`
      );
    settings = found;
  }
  const as = options.text("as");
  if (as !== undefined) settings = withForm(settings, as);
  const rate = options.text("rate");
  if (rate !== undefined) settings = { ...settings, sampleRate: numberOf("--rate", rate) as DeliveryRate };
  const to = options.text("to");
  if (to !== undefined) settings = { ...settings, level: levelOf(to) };
  const ceiling = options.text("ceiling");
  if (ceiling !== undefined) settings = { ...settings, ceilingDbtp: numberOf("--ceiling", ceiling) };
  const pattern = options.text("name");
  if (pattern !== undefined) settings = { ...settings, pattern };
  if (options.flag("mono")) settings = { ...settings, channels: "mono" };
  settings = { ...settings, tags: { ...settings.tags, ...tagsOf(options.all("tag")) } };
  const cover = options.text("cover");
  if (cover !== undefined) settings = { ...settings, cover: coverOf(cover) };
  if (cover !== undefined && !CODINGS[settings.coding].cover)
    throw new UsageFault(`${CODINGS[settings.coding].name} takes no cover`);
  const fault = settingsFault(settings) ?? patternFault(settings.pattern) ?? schemaFault(settings);
  if (fault) throw new UsageFault(fault.replace(/\.$/, ""));
  return settings;
}

function wantedOf(document: Document, text: string): Wanted {
  const all = (table: "sections" | "tracks" | "clips" | "recordings") =>
    [...document.values(table)].map(({ id }) => id);
  if (text === "mix") return { what: "mix" };
  if (text === "videos") return { what: "videos", ids: all("recordings") };
  if (text === "sections" || text === "tracks" || text === "clips" || text === "recordings")
    return { what: text, ids: all(text) };
  const [from, to] = text.split("..").map((part) => parseTime(part));
  if (from === undefined || to === undefined || from < 0 || to <= from)
    throw new UsageFault(
      `--what is mix, sections, tracks, clips, recordings, videos or a range such as 0:10..1:30, not "${text}"`
    );
  return {
    what: "range",
    from: Math.round(from * document.sampleRate),
    to: Math.round(to * document.sampleRate)
  };
}

/** Files of an item's recordings at the project's rate; what is not there at that rate is made in a folder. */
function filesOf(document: Document, item: DeliveryItem, folder: string, work: Work): RecordingFiles {
  const files: Record<string, string> = {};
  for (const id of recordingsOfItem(document, item)) {
    const recording = document.get("recordings", id);
    const hash = recording?.media;
    const original = hash ? originalPath(config.dataFolder, hash) : undefined;
    if (!recording || !hash || !original || !existsSync(original))
      throw new CouldNot(`The audio of "${recording?.name ?? id}" is missing from the data folder`);
    const known = conformedPath(config.dataFolder, hash, document.sampleRate);
    const own = path.join(folder, `${id}.wav`);
    if (recording.sampleRate === document.sampleRate) files[id] = original;
    else if (existsSync(known)) files[id] = known;
    else {
      if (!existsSync(own))
        conform(original, document.sampleRate, own, (s) => work.progress(`reading ${recording.name}`, s));
      files[id] = own;
    }
  }
  return files;
}

/** Puts a file into its place, under another name until it is whole. */
function place(file: string, target: string, work: Work): void {
  const part = `${target}.${process.pid}.part`;
  work.temporary(part);
  copyFileSync(file, part);
  renameSync(part, target);
  work.kept(part);
}

export const deliver: Command = {
  usage:
    "deliver PROJECT --what mix|sections|tracks|clips|recordings|videos|FROM..TO [--preset NAME] [--as FORMAT] [--to integrated=-16] [--ceiling -1] [--rate 48000] [--mono] [--name PATTERN] [--tag NAME=TEXT]… [--cover PICTURE] -o DIR [--json]",
  summary: "files of a project of the data folder: the mix, its sections, stems, clips, recordings",
  help: [
    "  PROJECT      name or id of a project in the data folder (WRING_DATA, or ./data)",
    `  --as         ${Object.keys(FORMS).join(", ")}; mp3:192 or opus:96 with a rate of bits, mp3:q2 or vorbis:5 with a quality; wav24 unless said`,
    "  --preset     delivery settings by name: those that come with Wring, or saved ones; other options change them",
    "  --to         one gain for each file that brings it to integrated=LUFS, true-peak=dBTP or peak=dBFS",
    "  --ceiling L  the gain stops where the written file's true peak would pass L dBTP; measured after coding",
    '  --name       pattern of file names, as "{project} {name}"; nothing is overwritten: a number is put behind',
    `  --tag        ${TAG_NAMES.join(", ")}: once for each`,
    "  --cover      PNG or JPEG picture of at most 2 MB, for all formats but WAV",
    "  -o DIR       folder of the files, made when it is missing"
  ],
  async run(args, work) {
    const options = parse(args, {
      what: { type: "string" },
      preset: { type: "string" },
      as: { type: "string" },
      to: { type: "string" },
      ceiling: { type: "string" },
      rate: { type: "string" },
      mono: { type: "boolean" },
      name: { type: "string" },
      tag: { type: "string", multiple: true },
      cover: { type: "string" },
      output: { type: "string", short: "o" },
      json: { type: "boolean" }
    });
    const [wanted, ...more] = options.files;
    if (wanted === undefined || more.length > 0) throw new UsageFault("deliver wants one project");
    const output = options.text("output");
    if (!output) throw new UsageFault("deliver wants -o DIR");
    const settings = await settingsOf(options);
    const document = await savedProject(config.dataFolder, wanted).catch((error: unknown) => {
      throw new CouldNot((error as Error).message, { cause: error });
    });
    const items = itemsOf(document, wantedOf(document, options.text("what") ?? "mix"));
    if (items.length === 0)
      throw new CouldNot("There is nothing to deliver: nothing of what was chosen sounds");
    makeFolder(output);
    const date = new Date();
    const names = namesOf(document, items, settings, date, readdirSync(output));
    const folder = path.join(tmpdir(), `wring-${randomUUID()}`);
    work.temporary(folder);
    const done: { file: string; made: Delivered }[] = [];
    try {
      for (const [i, item] of items.entries()) {
        const name = names[i];
        const scratch = path.join(folder, String(i));
        mkdirSync(scratch, { recursive: true });
        const files = filesOf(document, item, folder, work);
        const fitting = videoOfItem(document, item, settings, config.dataFolder);
        const made = await deliverItem(
          { document, item, files, date, folder: scratch, ...fitting },
          (share) => work.progress(`${i + 1} of ${items.length}: ${name}`, share)
        );
        const target = path.join(output, name);
        place(made.file, target, work);
        rmSync(scratch, { recursive: true, force: true });
        done.push({ file: target, made });
      }
    } catch (error) {
      if (!(error instanceof FileFault)) throw error;
      throw new CouldNot(`"${names[done.length]}" was not delivered: ${error.message}`, { cause: error });
    } finally {
      rmSync(folder, { recursive: true, force: true });
      work.kept(folder);
    }
    if (options.flag("json"))
      return json(
        done.map(({ file, made: { file: _scratch, measurement, ...facts } }) => ({
          file,
          ...facts,
          levels: measurementToJson(measurement)
        }))
      );
    const rows = done.map(({ file, made }) => [
      file,
      `${formatDb(made.measurement.integratedLufs)} LUFS`,
      `${formatDb(made.measurement.truePeakDbtp)} dBTP`,
      `${formatDb(made.gainDb, 2, true)} dB`
    ]);
    return columns([["file", "loudness", "true peak", "gain"], ...rows]);
  }
};
