import type { Change } from "./changes";
import { countUses, type Document } from "./document";
import { alike } from "./equal";
import { referenceKey } from "./references";
import type { Entities, Entity, TableName } from "./schema";
import type { Tables } from "./tables";

/** A document in the making: notes what a command puts and removes, and gives the changes. */
export class Draft implements Tables {
  /** By table and id: the new state, null when it is gone. */
  readonly #over = new Map<string, { table: TableName; id: string; after: Entity | null }>();
  readonly #uses = new Map<string, number>();

  constructor(readonly base: Document) {}

  get<T extends TableName>(table: T, id: string): Entities[T] | undefined {
    const over = this.#over.get(referenceKey({ table, id }));
    return over ? ((over.after ?? undefined) as Entities[T] | undefined) : this.base.get(table, id);
  }

  *values<T extends TableName>(table: T): Generator<Entities[T]> {
    for (const entity of this.base.values(table))
      if (!this.#over.has(referenceKey({ table, id: entity.id }))) yield entity;
    for (const over of this.#over.values())
      if (over.table === table && over.after) yield over.after as Entities[T];
  }

  uses(table: TableName, id: string): number {
    return this.base.uses(table, id) + (this.#uses.get(referenceKey({ table, id })) ?? 0);
  }

  put<T extends TableName>(table: T, entity: Entities[T]): void {
    this.#set(table, entity.id, entity);
  }

  remove(table: TableName, id: string): void {
    this.#set(table, id, null);
  }

  #set(table: TableName, id: string, after: Entity | null): void {
    countUses(this.#uses, table, this.get(table, id) ?? null, -1);
    countUses(this.#uses, table, after, 1);
    this.#over.set(referenceKey({ table, id }), { table, id, after });
  }

  /** Entities that are not what they were, each once. */
  changes(): Change[] {
    const out: Change[] = [];
    for (const { table, id, after } of this.#over.values()) {
      const before = this.base.get(table, id) ?? null;
      if (!alike(before, after)) out.push({ table, id, before, after });
    }
    return out;
  }
}
