// Sections in files: CSV (RFC 4180) both ways, cue points of WAV files in. Delivered WAV files carry the sections as cue points.
import { csvFormatRows, csvParseRows } from "d3";
import { readMarkers, type Marker } from "$lib/core/formats/cues";
import { letters, viewOf } from "$lib/core/formats/wavChunks";
import { sectionsInOrder } from "$lib/core/session/lookup";
import { newSection } from "$lib/core/session/make";
import type { Section } from "$lib/core/session/schema";
import { formatTime, parseTime } from "$lib/core/units/time";
import { notices } from "../shared/notices.svelte";
import { newId } from "./editing";
import type { Editor } from "./editor.svelte";
import { saveText } from "./saveText";

/** Digits of a second: a sample at 96 kHz is ten microseconds. */
const DECIMALS = 6;
/** A marker without a length becomes a section of this many seconds. */
const MARKER_SECONDS = 1;
const MOST_BYTES = 4 * 1024 * 1024;

export function sectionsToCsv(sections: readonly Section[], sampleRate: number): string {
  const rows = sections.map(({ name, start, length }) => [
    name,
    formatTime(start / sampleRate, DECIMALS),
    formatTime((start + length) / sampleRate, DECIMALS)
  ]);
  return `${csvFormatRows([["name", "start", "end"], ...rows])}\n`;
}

/**
 * Sections of a CSV text with the columns name, start, end; times as 1:02.5 or seconds.
 * @throws Error with a sentence that names the line
 */
export function sectionsFromCsv(text: string, sampleRate: number): Omit<Section, "id">[] {
  const rows = csvParseRows(text.replace(/^\uFEFF/, "")).filter((row) =>
    row.some((cell) => cell.trim() !== "")
  );
  const [head, ...body] = rows;
  const headed = head?.map((cell) => cell.trim().toLowerCase()).join() === "name,start,end";
  return (headed ? body : rows).map((row, i) => {
    const [name = "", from = "", to = ""] = row.map((cell) => cell.trim());
    const [start, end] = [parseTime(from), parseTime(to)];
    const line = i + (headed ? 2 : 1);
    if (name === "" || start === undefined || end === undefined || start < 0)
      throw new Error(`Line ${line} is not a name, a start and an end: "${row.join(",").slice(0, 60)}".`);
    if (end <= start) throw new Error(`Line ${line}: "${name}" ends before it begins.`);
    const first = Math.round(start * sampleRate);
    return {
      name: name.slice(0, 120),
      start: first,
      length: Math.max(1, Math.round(end * sampleRate) - first)
    };
  });
}

/** Markers of a WAV file, at its rate. @throws Error when it is none */
async function wavMarkers(file: Blob): Promise<{ markers: Marker[]; sampleRate: number }> {
  const bytes = async (from: number, to: number) =>
    new Uint8Array(await file.slice(from, Math.min(to, file.size)).arrayBuffer());
  const head = await bytes(0, 12);
  if (head.length < 12 || !["RIFF", "RF64"].includes(letters(head, 0)) || letters(head, 8) !== "WAVE")
    throw new Error("It is neither a CSV text nor a WAV file.");
  let sampleRate = 48000;
  let cue: Uint8Array | undefined;
  const lists: Uint8Array[] = [];
  for (let at = 12; at + 8 <= file.size;) {
    const header = await bytes(at, at + 8);
    const [id, length] = [letters(header, 0), viewOf(header).getUint32(4, true)];
    if (["fmt ", "cue ", "LIST"].includes(id) && length < MOST_BYTES) {
      const body = await bytes(at + 8, at + 8 + length);
      if (id === "fmt ") sampleRate = viewOf(body).getUint32(4, true);
      else if (id === "cue ") cue = body;
      else lists.push(body);
    }
    at += 8 + length + (length % 2);
  }
  return { markers: cue ? readMarkers(cue, lists) : [], sampleRate };
}

async function sectionsOf(file: File, rate: number): Promise<Omit<Section, "id">[]> {
  if (!/\.(wav|bwf|rf64)$/i.test(file.name)) return sectionsFromCsv(await file.text(), rate);
  const { markers, sampleRate } = await wavMarkers(file);
  return markers.map(({ name, start, length }) => ({
    name: name.slice(0, 120),
    start: Math.round((start * rate) / sampleRate),
    length: Math.max(1, Math.round(((length || MARKER_SECONDS * sampleRate) * rate) / sampleRate))
  }));
}

/** Asks for a file and adds its sections. */
export function importSections(editor: Editor): void {
  const input = document.createElement("input");
  input.type = "file";
  input.accept = ".csv,text/csv,.wav,.bwf,.rf64";
  input.setAttribute("aria-label", "File with sections");
  input.onchange = () => {
    const [file] = input.files ?? [];
    if (file) addSections(editor, file).catch((error: unknown) => notices.fault(error));
  };
  input.click();
}

export async function addSections(editor: Editor, file: File): Promise<void> {
  try {
    const found = await sectionsOf(file, editor.sampleRate);
    if (found.length === 0) throw new Error("It has no sections.");
    const commands = found.map(({ name, start, length }) => ({
      type: "section.add" as const,
      section: newSection(newId(), name, start, length)
    }));
    editor.session.run({
      type: "compound",
      name: `add ${found.length} sections of ${file.name}`.slice(0, 160),
      commands
    });
  } catch (error) {
    throw new Error(
      `"${file.name}" could not be read: ${error instanceof Error ? error.message : String(error)}`,
      {
        cause: error
      }
    );
  }
}

export function exportSections({ session, sampleRate }: Editor): void {
  const text = sectionsToCsv(sectionsInOrder(session.shown), sampleRate);
  saveText(text, `${session.shown.name} sections.csv`, "text/csv");
}
