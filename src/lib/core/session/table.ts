// A table of entities by id that never changes: a changed table is a new one that shares all but what changed.
//
//   table ── buckets ─┬─ bucket 0 ── Map id → entity      a change copies the list of buckets
//                     ├─ bucket 1 ── Map id → entity      and the one bucket that the id falls into
//                     └─ …
//
// There are as many buckets as keep them at about MOST entities each, so a change costs nearly the same in a table of 200
// and in one of 20,000.

const FEWEST_BUCKETS = 16;
const MOST = 12;
// How many times as many buckets a table gets when it has outgrown its own.
const GROWTH = 8;

type Bucket<T> = ReadonlyMap<string, T>;

/** FNV-1a, 32 bit, of a text's UTF-16 units. Source: IETF draft-eastlake-fnv, section 2. */
function hashOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash >>> 0;
}

const EMPTY: Bucket<never> = new Map<string, never>();

/** What becomes of one entity: its new state, or null when it goes. */
export interface TableChange<T> {
  readonly id: string;
  readonly after: T | null;
}

export class Table<T extends { readonly id: string }> {
  private constructor(
    private readonly buckets: readonly Bucket<T>[],
    readonly size: number
  ) {}

  static empty<T extends { readonly id: string }>(): Table<T> {
    return new Table<T>(new Array<Bucket<T>>(FEWEST_BUCKETS).fill(EMPTY), 0);
  }

  static of<T extends { readonly id: string }>(entities: Iterable<T>): Table<T> {
    return Table.empty<T>().with([...entities].map((entity) => ({ id: entity.id, after: entity })));
  }

  private bucketOf(id: string): Bucket<T> {
    return this.buckets[hashOf(id) & (this.buckets.length - 1)] ?? EMPTY;
  }

  get(id: string): T | undefined {
    return this.bucketOf(id).get(id);
  }

  has(id: string): boolean {
    return this.bucketOf(id).has(id);
  }

  /** All entities, in no order that means anything. */
  *values(): Generator<T> {
    for (const bucket of this.buckets) yield* bucket.values();
  }

  /** The table with these changes; the last one of an id counts. */
  with(changes: readonly TableChange<T>[]): Table<T> {
    const most = this.size + changes.length;
    const grown = most > this.buckets.length * MOST ? this.grown(most) : this.buckets;
    const buckets = grown.slice();
    const own = new Set<number>();
    let { size } = this;
    for (const { id, after } of changes) {
      const index = hashOf(id) & (buckets.length - 1);
      let bucket = buckets[index] as Map<string, T>;
      if (!own.has(index)) {
        bucket = new Map(bucket);
        buckets[index] = bucket;
        own.add(index);
      }
      if (after === null) size -= bucket.delete(id) ? 1 : 0;
      else {
        size += bucket.has(id) ? 0 : 1;
        bucket.set(id, after);
      }
    }
    return new Table<T>(buckets, size);
  }

  private grown(size: number): Bucket<T>[] {
    let count = this.buckets.length;
    while (size > count * MOST) count *= GROWTH;
    const buckets = Array.from({ length: count }, () => new Map<string, T>());
    for (const entity of this.values()) buckets[hashOf(entity.id) & (count - 1)]?.set(entity.id, entity);
    return buckets;
  }

  /** Ids whose entity is not the same object in both tables. Costs what differs, when one table came of the other. */
  static differing<T extends { readonly id: string }>(a: Table<T>, b: Table<T>): string[] {
    if (a === b) return [];
    const out: string[] = [];
    const compare = (left: Bucket<T>, right: Bucket<T>) => {
      for (const [id, entity] of left) if (right.get(id) !== entity) out.push(id);
      for (const id of right.keys()) if (!left.has(id)) out.push(id);
    };
    if (a.buckets.length === b.buckets.length)
      a.buckets.forEach((left, i) => {
        const right = b.buckets[i] ?? EMPTY;
        if (left !== right) compare(left, right);
      });
    else
      compare(new Map([...a.values()].map((e) => [e.id, e])), new Map([...b.values()].map((e) => [e.id, e])));
    return out;
  }
}
