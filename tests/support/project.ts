// A project of the server's, worked on as one page does.
import { randomUUID } from "node:crypto";
import type { Command } from "../../src/lib/core/session/commands";
import { Document } from "../../src/lib/core/session/document";
import type { Wish } from "../../src/lib/core/session/replica";
import type { EditsAnswer } from "../../src/lib/api/types";
import { edit } from "../../src/lib/server/services/edits";
import { projectState } from "../../src/lib/server/services/projects";

export async function documentNow(projectId: string): Promise<Document> {
  return Document.fromJson((await projectState(projectId)).document);
}

/** Sends one edit, made on the newest revision unless said. */
export async function send(
  projectId: string,
  wish: Wish,
  { page = "test-page", base, editId = randomUUID() }: { page?: string; base?: number; editId?: string } = {}
): Promise<EditsAnswer> {
  const { revision } = await projectState(projectId);
  return edit(projectId, { page, known: revision, edits: [{ editId, base: base ?? revision, wish }] });
}

/** Makes commands one after the other. @throws Error with the sentence of the first that is refused */
export async function run(projectId: string, ...commands: Command[]): Promise<Document> {
  for (const command of commands) {
    const { refused } = await send(projectId, { command });
    if (refused[0]) throw new Error(refused[0].error);
  }
  return documentNow(projectId);
}

/** Takes the last edit back, or brings the next again. @throws Error with the sentence of a refusal */
export async function step(projectId: string, direction: "undo" | "redo"): Promise<Document> {
  const { history } = await projectState(projectId);
  const target = history[direction].at(-1)?.editId ?? "none";
  const { refused } = await send(projectId, direction === "undo" ? { undo: target } : { redo: target });
  if (refused[0]) throw new Error(refused[0].error);
  return documentNow(projectId);
}
