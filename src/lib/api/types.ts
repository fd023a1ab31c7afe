// What goes over the wire between pages and routes: plain data, known to both sides.
import { z } from "zod";
import { commandSchema } from "$lib/core/session/commands";
import type { DocumentJson } from "$lib/core/session/document";
import type { History } from "$lib/core/session/history";
import type { Entry } from "$lib/core/session/replica";
import { idSchema, PROJECT_RATES, projectSchema } from "$lib/core/session/schema";
import type { JobView } from "./jobs";

export interface ProjectSummary {
  readonly id: string;
  readonly name: string;
  readonly lengthSeconds: number;
  readonly tracks: number;
  readonly sampleRate: number;
  readonly changedAt: string;
  /** Why it cannot be opened; null: it can. */
  readonly fault: string | null;
  /** When it was put into the bin; null: it is not there. */
  readonly deletedAt: string | null;
}

/** The whole of a project, as it is sent when a page opens it. */
export interface ProjectState {
  readonly id: string;
  readonly revision: number;
  readonly document: DocumentJson;
  readonly history: History;
  /** Recordings whose file is damaged or missing. */
  readonly broken: readonly BrokenRecording[];
}

export interface BrokenRecording {
  readonly id: string;
  readonly state: "damaged" | "missing";
}

export const newProjectSchema = z.object({
  name: projectSchema.shape.name,
  sampleRate: z.union(PROJECT_RATES.map((rate) => z.literal(rate)))
});

const wishSchema = z.union([
  z.object({ command: commandSchema }),
  z.object({ undo: idSchema }),
  z.object({ redo: idSchema })
]);

/** Edits of one page, in order. `known`: the newest revision that the page has. */
export const editsSchema = z.object({
  page: idSchema,
  known: z.number().int().min(0),
  edits: z
    .array(z.object({ editId: idSchema, base: z.number().int().min(0), wish: wishSchema }))
    .min(1)
    .max(100)
});
export type EditsRequest = z.infer<typeof editsSchema>;

export interface RefusedEdit {
  readonly editId: string;
  readonly error: string;
}

/** What became of edits, and all that was accepted since the page's revision. */
export interface EditsAnswer {
  readonly revision: number;
  readonly entries: readonly Entry[];
  readonly refused: readonly RefusedEdit[];
}

/** What pages of a project are told while they are open. */
export type ProjectNews =
  | { readonly type: "entries"; readonly entries: readonly Entry[] }
  | { readonly type: "recording"; readonly id: string; readonly state: "good" | "damaged" | "missing" }
  | { readonly type: "job"; readonly job: JobView };
