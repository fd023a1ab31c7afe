// Names of delivered files, by a pattern with fields in braces.
import type { Document } from "../session/document";
import { CODINGS } from "./codings";
import { videoEnding, type DeliveryItem } from "./items";
import { rateOf, type DeliverySettings } from "./settings";

/** Fields of a pattern, each with what it stands for. */
export const NAME_FIELDS = {
  project: "name of the project",
  name: "what is in the file: section, track, clip, recording, or “mix”",
  number: "place in the list, two digits at least",
  date: "today, as 2031-04-09",
  rate: "sample rate, as 48k",
  format: "format, as wav24 or mp3; of a video its own",
  level: "the level it is brought to, as -16LUFS; left out when there is none"
} as const;
export type NameField = keyof typeof NAME_FIELDS;

export interface NamedItem {
  readonly project: string;
  readonly name: string;
  /** From 1. */
  readonly number: number;
  readonly count: number;
  readonly date: Date;
  readonly projectRate: number;
}

/** Bytes that a name may have in common file systems, with its ending and " 99" behind it. */
const MOST_BYTES = 240;

function two(n: number): string {
  return String(n).padStart(2, "0");
}

const BITS = { int16: "16", int24: "24", float32: "32f" } as const;
const UNITS = { integrated: "LUFS", "true-peak": "dBTP", peak: "dBFS" } as const;

function fieldsOf(
  settings: DeliverySettings,
  item: NamedItem,
  ending: string | undefined
): Record<NameField, string> {
  const { extension, bits } = CODINGS[settings.coding];
  const { level } = settings;
  const rate = rateOf(settings, item.projectRate) / 1000;
  return {
    project: item.project,
    name: item.name,
    number: String(item.number).padStart(Math.max(2, String(item.count).length), "0"),
    date: `${item.date.getFullYear()}-${two(item.date.getMonth() + 1)}-${two(item.date.getDate())}`,
    rate: `${rate}k`,
    format: ending ?? (bits.length > 0 ? `${extension}${BITS[settings.bits]}` : extension),
    level: level ? `${level.to}${UNITS[level.of]}` : ""
  };
}

/** What a pattern lacks, or names that is no field, as a sentence; undefined when it is right. */
export function patternFault(pattern: string): string | undefined {
  if (pattern.trim() === "") return "The name of the files is empty.";
  for (const [whole, field] of pattern.matchAll(/\{([^{}]*)\}/g))
    if (field === undefined || !(field in NAME_FIELDS))
      return `"${whole}" is no field of a name; there are ${Object.keys(NAME_FIELDS)
        .map((name) => `{${name}}`)
        .join(", ")}.`;
  return undefined;
}

/** A name that file systems take: no separators, no control characters, no dots in front, not too long. */
function safe(name: string): string {
  let text = name
    .replace(/[\p{Cc}\p{Cf}/\\:*?"<>|]/gu, "_")
    .replace(/\s+/g, " ")
    .replace(/^[\s.]+|[\s.]+$/g, "");
  const characters = [...text];
  while (new TextEncoder().encode(text).length > MOST_BYTES) {
    characters.pop();
    text = characters.join("");
  }
  return text || "untitled";
}

/** Name of an item's file, ending included. @param ending that of a video; else that of the coding */
export function fileNameOf(settings: DeliverySettings, item: NamedItem, ending?: string): string {
  const fields = fieldsOf(settings, item, ending);
  const filled = settings.pattern.replace(/\{([^{}]*)\}/g, (whole, field: string) =>
    field in fields ? fields[field as NameField] : whole
  );
  return `${safe(filled)}.${ending ?? CODINGS[settings.coding].extension}`;
}

/** The same names with a number behind those that were there before: no file takes another's place. Upper and lower case count as the same. */
export function distinct(names: readonly string[], taken: Iterable<string> = []): string[] {
  const known = new Set([...taken].map((name) => name.toLowerCase()));
  return names.map((name) => {
    const dot = name.lastIndexOf(".");
    const [stem, ending] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, ""];
    let free = name;
    for (let n = 2; known.has(free.toLowerCase()); n++) free = `${stem} ${n}${ending}`;
    known.add(free.toLowerCase());
    return free;
  });
}

/** Names of the files that items become, none of them taken. */
export function namesOf(
  document: Document,
  items: readonly DeliveryItem[],
  settings: DeliverySettings,
  date: Date,
  taken: Iterable<string>
): string[] {
  const shared = { project: document.name, count: items.length, date, projectRate: document.sampleRate };
  const wanted = items.map((item, i) =>
    fileNameOf(settings, { ...shared, name: item.name, number: i + 1 }, videoEnding(document, item))
  );
  return distinct(wanted, taken);
}
