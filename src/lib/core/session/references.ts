// Which entities an entity names. A document counts them, so that whoever is named cannot go, and a chain goes with its last owner.
import { recordingsOf } from "../effects/registry";
import type { Chain, Clip, Entity, Project, Recording, TableName, Track, Version } from "./schema";

export interface Reference {
  readonly table: TableName;
  readonly id: string;
}

function toChain(id: string | null): Reference[] {
  return id === null ? [] : [{ table: "chains", id }];
}

/** Recordings that a kept state of a clip needs to be heard again. */
export function recordingsOfVersion({ steps, render }: Version): string[] {
  return [...(render ? [render.recordingId] : []), ...steps.flatMap(recordingsOf)];
}

/** What an entity cannot be without. A recording that is named twice is listed twice. */
export function referencesOf(table: TableName, entity: Entity): Reference[] {
  switch (table) {
    case "clips": {
      const clip = entity as Clip;
      const recordings = [
        clip.content.recordingId,
        ...(clip.render ? [clip.render.recordingId] : []),
        ...(clip.versions ?? []).flatMap(recordingsOfVersion)
      ];
      return [
        { table: "tracks", id: clip.track },
        ...recordings.map((id) => ({ table: "recordings" as const, id })),
        ...toChain(clip.chain)
      ];
    }
    case "chains":
      return (entity as Chain).steps.flatMap(recordingsOf).map((id) => ({ table: "recordings", id }));
    case "project":
      return toChain((entity as Project).mix.chain);
    case "tracks":
    case "recordings":
      return toChain((entity as Track | Recording).chain);
    case "sections":
      return [];
  }
}

/** Name of an entity in the count of uses. */
export function referenceKey({ table, id }: Reference): string {
  return `${table}/${id}`;
}
