// What a project archive holds: one ZIP with `project.json`, the audio of all recordings, and the files that they were decoded from.
import { z } from "zod";
import type { DocumentJson } from "$lib/core/session/document";
import { DOCUMENT_VERSION } from "$lib/core/session/schema";

export const PROJECT_ENTRY = "project.json";
/** Names of audio in an archive: the hash of its content, as in the data folder. */
export const AUDIO_ENTRY = /^audio\/([0-9a-f]{64})\.(wav|source)$/;

const editSchema = z.object({
  revision: z.number().int().min(1),
  editId: z.string(),
  kind: z.string(),
  target: z.string().nullable(),
  label: z.string(),
  page: z.string().nullable(),
  job: z.string().nullable(),
  changes: z.string(),
  state: z.string(),
  stateAt: z.number().int(),
  version: z.number().int(),
  createdAt: z.string()
});

export const projectFileSchema = z.object({
  kind: z.literal("wring-project"),
  version: z.number().int().max(DOCUMENT_VERSION, "was made by a newer Wring"),
  document: z.custom<DocumentJson>((value) => typeof value === "object" && value !== null),
  /** The history, oldest first. */
  edits: z.array(editSchema).max(1_000_000)
});
export type ProjectFile = z.infer<typeof projectFileSchema>;

/** Hashes of all audio that a document or its history speaks of. */
export function hashesIn(text: string): string[] {
  return [
    ...new Set([...text.matchAll(/\\?"media\\?":\\?"([0-9a-f]{64})\\?"/g)].flatMap(([, hash]) => hash ?? []))
  ];
}
