// The database of the version that landed first, from tests/fixtures/landed-1.
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { gunzipSync } from "node:zlib";
import sqlite3 from "sqlite3";

export const LANDED = path.resolve("tests/fixtures/landed-1");

/** A data folder with that database. */
export function copyOfLanded(): string {
  const folder = mkdtempSync(path.join(tmpdir(), "wring-landed-"));
  const bytes = gunzipSync(readFileSync(path.join(LANDED, "wring.sqlite.gz")));
  writeFileSync(path.join(folder, "wring.sqlite"), bytes);
  return folder;
}

interface Row {
  readonly label: string;
  readonly patches: string;
  readonly inverse: string;
  readonly undone: number;
}

/** The stored edits of a project in that database, oldest first. */
export function landedEdits(folder: string, projectId: string): Promise<unknown[]> {
  return new Promise((resolve, reject) => {
    const database = new sqlite3.Database(path.join(folder, "wring.sqlite"), sqlite3.OPEN_READONLY);
    const sql = "SELECT label, patches, inverse, undone FROM edits WHERE projectId = ? ORDER BY id";
    database.all<Row>(sql, [projectId], (error, rows) => {
      database.close();
      if (error) reject(error);
      else
        resolve(
          rows.map(({ label, patches, inverse, undone }) => ({
            label,
            patches: JSON.parse(patches) as unknown,
            inverse: JSON.parse(inverse) as unknown,
            undone: undone === 1
          }))
        );
    });
  });
}
