// Reading a document, finished or in the making.
import type { Entities, TableName } from "./schema";

export interface Tables {
  get<T extends TableName>(table: T, id: string): Entities[T] | undefined;
  /** All entities of a table, in no order that means anything. */
  values<T extends TableName>(table: T): Iterable<Entities[T]>;
  /** How many entities name this one. */
  uses(table: TableName, id: string): number;
}
