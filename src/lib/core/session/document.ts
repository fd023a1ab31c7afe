// The document: what a project is. A value: a change makes a new one that shares all but what changed.
import type { Change } from "./changes";
import { referenceKey, referencesOf } from "./references";
import { DOCUMENT_VERSION, TABLES, type Entities, type Entity, type Project, type TableName } from "./schema";
import { Table, type TableChange } from "./table";
import type { Tables } from "./tables";

type AllTables = { readonly [T in TableName]: Table<Entities[T]> };

interface Use {
  /** Table and id of what is named. */
  readonly id: string;
  readonly count: number;
}

/** A document as JSON: one list of entities a table, sorted by id. Other fields are kept as they are. */
export type DocumentJson = { readonly version: typeof DOCUMENT_VERSION } & {
  readonly [T in TableName]: readonly Entities[T][];
} & Record<string, unknown>;

export class Document implements Tables {
  private constructor(
    private readonly tables: AllTables,
    private readonly counts: Table<Use>,
    /** What stood in the JSON beside the tables. */
    private readonly rest: Readonly<Record<string, unknown>>
  ) {}

  /** Takes entities as they are; `documentFault` says whether they fit together. */
  static fromJson(json: DocumentJson): Document {
    const rest = Object.fromEntries(
      Object.entries(json).filter(([key]) => !(TABLES as string[]).includes(key))
    );
    const empty = Object.fromEntries(TABLES.map((table) => [table, Table.empty()])) as unknown as AllTables;
    const changes = TABLES.flatMap((table) =>
      json[table].map((entity: Entity) => ({ table, id: entity.id, before: null, after: entity }))
    );
    return new Document(empty, Table.empty(), rest).with(changes);
  }

  toJson(): DocumentJson {
    const lists = TABLES.map((table) => [
      table,
      [...this.values(table)].sort((a, b) => (a.id < b.id ? -1 : 1))
    ]);
    return { ...this.rest, version: DOCUMENT_VERSION, ...Object.fromEntries(lists) } as DocumentJson;
  }

  get<T extends TableName>(table: T, id: string): Entities[T] | undefined {
    return this.tables[table].get(id);
  }

  values<T extends TableName>(table: T): Iterable<Entities[T]> {
    return this.tables[table].values();
  }

  size(table: TableName): number {
    return this.tables[table].size;
  }

  uses(table: TableName, id: string): number {
    return this.counts.get(referenceKey({ table, id }))?.count ?? 0;
  }

  get project(): Project {
    const project = this.tables.project.get("project");
    if (!project) throw new Error("The document has no project entity.");
    return project;
  }

  get name(): string {
    return this.project.name;
  }

  get sampleRate(): Project["sampleRate"] {
    return this.project.sampleRate;
  }

  /** The document with these changes. `before` is taken to be what is there. */
  with(changes: readonly Change[]): Document {
    if (changes.length === 0) return this;
    const byTable = new Map<TableName, TableChange<Entity>[]>();
    const delta = new Map<string, number>();
    for (const { table, id, before, after } of changes) {
      const list = byTable.get(table);
      if (list) list.push({ id, after });
      else byTable.set(table, [{ id, after }]);
      countUses(delta, table, before, -1);
      countUses(delta, table, after, 1);
    }
    const tables: Record<string, Table<Entity>> = { ...this.tables } as unknown as Record<
      string,
      Table<Entity>
    >;
    for (const [table, list] of byTable)
      tables[table] = (this.tables[table] as unknown as Table<Entity>).with(list);
    const counts = [...delta].flatMap(([key, by]) => {
      if (by === 0) return [];
      const count = (this.counts.get(key)?.count ?? 0) + by;
      return [{ id: key, after: count > 0 ? { id: key, count } : null }];
    });
    return new Document(tables as unknown as AllTables, this.counts.with(counts), this.rest);
  }
}

/** Adds `by` for each entity that this one names. */
export function countUses(
  delta: Map<string, number>,
  table: TableName,
  entity: Entity | null,
  by: 1 | -1
): void {
  if (!entity) return;
  for (const reference of referencesOf(table, entity)) {
    const key = referenceKey(reference);
    delta.set(key, (delta.get(key) ?? 0) + by);
  }
}

/** What makes `b` of `a`. Costs what differs, when one came of the other. */
export function changesBetween(a: Document, b: Document): Change[] {
  return TABLES.flatMap((table) =>
    Table.differing(tableOf(a, table), tableOf(b, table)).map((id) => ({
      table,
      id,
      before: a.get(table, id) ?? null,
      after: b.get(table, id) ?? null
    }))
  );
}

function tableOf(doc: Document, table: TableName): Table<Entity> {
  return (doc as unknown as { tables: Record<TableName, Table<Entity>> }).tables[table];
}
