// All kinds of jobs.
import { batchEnding, batching } from "./batch";
import { bouncing } from "./bounce";
import { delivering } from "./deliver";
import { exporting } from "./export";
import { importing } from "./import";
import type { JobKind } from "./kind";
import { measuring } from "./measure";
import { picturing } from "./picture";
import { unpacking } from "./unpack";
import { recomputing } from "./recompute";
import { rendering } from "./render";

const kinds = [
  importing,
  rendering,
  bouncing,
  recomputing,
  batching,
  batchEnding,
  measuring,
  exporting,
  delivering,
  unpacking,
  picturing
] as unknown as readonly JobKind[];
const byName = new Map(kinds.map((kind) => [kind.kind, kind]));

/** @throws Error when there is no such kind: a newer version stored it */
export function jobKindOf(kind: string): JobKind {
  const found = byName.get(kind);
  if (!found) throw new Error(`There is no job of the kind "${kind}".`);
  return found;
}
