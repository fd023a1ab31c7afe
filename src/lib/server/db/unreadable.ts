// Projects of version 1 that could not be carried over: they stay in their old table, are listed with the reason, and harm no one.
import { QueryTypes } from "sequelize";
import { bringUpProject } from "$lib/core/session/migrations/bringUp";
import type { ProjectSummary } from "$lib/api/types";
import { database } from "./connection";
import { projectRows } from "./projectRows";

interface Row {
  readonly id: string;
  readonly document: string;
  readonly updatedAt: string;
}

function reason(row: Row): string {
  try {
    projectRows(row.id, bringUpProject(JSON.parse(row.document)).document);
    return "its history cannot be read";
  } catch (error) {
    return (error as Error).message;
  }
}

/** A name in a text that need not be whole JSON. */
function nameIn(text: string): string {
  const found = /"name":("(?:[^"\\]|\\.){1,200}")/.exec(text);
  try {
    return found?.[1] ? (JSON.parse(found[1]) as string) : "A project";
  } catch {
    return "A project";
  }
}

export async function unreadableProjects(): Promise<ProjectSummary[]> {
  const { sequelize } = await database();
  const rows = await sequelize.query<Row>("SELECT id, document, updatedAt FROM projects_1", {
    type: QueryTypes.SELECT
  });
  return rows.map((row) => ({
    id: row.id,
    name: nameIn(row.document),
    lengthSeconds: 0,
    tracks: 0,
    sampleRate: 48000,
    changedAt: new Date(row.updatedAt).toISOString(),
    fault: reason(row),
    deletedAt: null
  }));
}
