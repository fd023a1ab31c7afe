import type { Change } from "../session/changes";
import type { Document } from "../session/document";

/** Ids of the clips of a document whose sound changes may have changed. Costs what changed; all clips where a chain or a recording did. */
export function clipsTouched(document: Document, changes: readonly Change[]): Set<string> {
  const touched = new Set<string>();
  const chains = new Set<string>();
  const recordings = new Set<string>();
  for (const { table, id } of changes) {
    if (table === "clips") touched.add(id);
    if (table === "chains") chains.add(id);
    if (table === "recordings") recordings.add(id);
  }
  if (chains.size > 0)
    for (const { id, chain } of document.values("recordings"))
      if (chain !== null && chains.has(chain)) recordings.add(id);
  if (chains.size > 0 || recordings.size > 0)
    for (const { id, chain, content } of document.values("clips"))
      if ((chain !== null && chains.has(chain)) || recordings.has(content.recordingId)) touched.add(id);
  return touched;
}
