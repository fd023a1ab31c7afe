// iXML, the production notes of location recorders (public specification 3.01): what of it people look for.
import { XMLParser, XMLValidator } from "fast-xml-parser";
import { z } from "zod";

const text = z.union([z.string(), z.number()]).transform(String).optional().catch(undefined);
const root = z.object({
  PROJECT: text,
  SCENE: text,
  TAKE: text,
  TAPE: text,
  NOTE: text,
  CIRCLED: text
});

/** The text as an object; undefined where it declares entities that point elsewhere, which are not followed. */
function parsed(source: string): { BWFXML?: unknown } | undefined {
  try {
    return new XMLParser({ parseTagValue: false }).parse(source) as { BWFXML?: unknown };
  } catch {
    return undefined;
  }
}

/** Fields of an iXML chunk as tags; empty when it is none that can be read. */
export function ixmlTags(bytes: Uint8Array): Record<string, string> {
  const source = new TextDecoder().decode(bytes).replace(/\0+$/, "");
  if (XMLValidator.validate(source) !== true) return {};
  const read = root.safeParse(parsed(source)?.BWFXML);
  if (!read.success) return {};
  const { PROJECT, SCENE, TAKE, TAPE, NOTE, CIRCLED } = read.data;
  const named = { project: PROJECT, scene: SCENE, take: TAKE, tape: TAPE, notes: NOTE, circled: CIRCLED };
  return Object.fromEntries(
    Object.entries(named).filter((entry): entry is [string, string] => (entry[1] ?? "").trim() !== "")
  );
}
