// A whole project as rows of the database: for new ones, and for those of version 1.
import { randomUUID } from "node:crypto";
import { Document, type DocumentJson } from "$lib/core/session/document";
import { programmeEnd } from "$lib/core/session/lookup";
import type { Edit2 } from "$lib/core/session/migrations/from1to2";
import { DOCUMENT_VERSION, TABLES, type Entity } from "$lib/core/session/schema";
import { documentFault } from "$lib/core/session/validate";

export interface ProjectRows {
  readonly row: {
    readonly id: string;
    readonly name: string;
    readonly sampleRate: number;
    readonly tracks: number;
    readonly lengthFrames: number;
    readonly revision: number;
    readonly version: number;
    readonly rest: string;
  };
  readonly entities: { projectId: string; tableName: string; id: string; json: string }[];
  readonly log: {
    projectId: string;
    revision: number;
    editId: string;
    kind: string;
    label: string;
    changes: string;
    state: string;
    stateAt: number;
    version: number;
  }[];
}

/**
 * @param edits oldest first, those that are undone last
 * @throws Error with a sentence's end when the document is not sound
 */
export function projectRows(id: string, json: DocumentJson, edits: readonly Edit2[] = []): ProjectRows {
  const document = Document.fromJson(json);
  const fault = documentFault(document);
  if (fault) throw new Error(fault);
  const lists = TABLES.flatMap((table) =>
    (json[table] as readonly Entity[]).map((entity) => ({ tableName: table as string, entity }))
  );
  const known = new Set<string>([...TABLES, "version"]);
  const rest = Object.fromEntries(Object.entries(json).filter(([key]) => !known.has(key)));
  const done = edits.filter((e) => !e.undone).length;
  return {
    row: {
      id,
      name: document.name,
      sampleRate: document.sampleRate,
      tracks: document.size("tracks"),
      lengthFrames: programmeEnd(document),
      revision: edits.length,
      version: DOCUMENT_VERSION,
      rest: JSON.stringify(rest)
    },
    entities: lists.map(({ tableName, entity }) => ({
      projectId: id,
      tableName,
      id: entity.id,
      json: JSON.stringify(entity)
    })),
    log: edits.map(({ label, changes, undone }, i) => ({
      projectId: id,
      revision: i + 1,
      editId: randomUUID(),
      kind: "do",
      label,
      changes: JSON.stringify(changes),
      state: undone ? "undone" : "done",
      // Of those that are undone, the first was undone last: it is what redo brings again.
      stateAt: undone ? edits.length - (i - done) : i + 1,
      version: DOCUMENT_VERSION
    }))
  };
}

/**
 * The document of a project's row and entities; entities of unknown tables are left out.
 * @throws Error with a sentence's end when it cannot be opened
 */
export function documentOfRows(
  { version, rest }: { readonly version: number; readonly rest: string },
  entities: readonly { readonly tableName: string; readonly json: string }[]
): Document {
  if (version > DOCUMENT_VERSION) throw new Error("it was made by a newer Wring");
  const lists: Record<string, unknown[]> = Object.fromEntries(TABLES.map((table) => [table, []]));
  for (const { tableName, json } of entities) lists[tableName]?.push(JSON.parse(json));
  const json = { ...(JSON.parse(rest) as object), version: DOCUMENT_VERSION, ...lists };
  const document = Document.fromJson(json as unknown as DocumentJson);
  const fault = documentFault(document);
  if (fault) throw new Error(fault);
  return document;
}
