// The saved presets of a data folder, read while another process may be working on it.
import path from "node:path";
import { QueryTypes, Sequelize } from "sequelize";
import sqlite3 from "sqlite3";
import { bringUpPreset } from "$lib/core/session/migrations/bringUp";
import { findEffect } from "$lib/core/effects/registry";
import type { RecipeStep } from "$lib/core/session/schema";
import { originalPath } from "../media/paths";

export interface SavedPreset {
  readonly name: string;
  /** Recordings that they ask for are given as files of the media store. */
  readonly steps: readonly RecipeStep[];
}

/** Presets by name. The database is opened for reading only, and needs no lock. */
export async function savedPresets(dataFolder: string): Promise<SavedPreset[]> {
  const sequelize = new Sequelize({
    dialect: "sqlite",
    storage: path.join(dataFolder, "wring.sqlite"),
    dialectOptions: { mode: sqlite3.OPEN_READONLY },
    logging: false
  });
  try {
    const rows = await sequelize.query<{ name: string; steps: string }>(
      "SELECT name, steps FROM presets ORDER BY name",
      { type: QueryTypes.SELECT }
    );
    return rows.map(({ name, steps: text }) => {
      const { steps, recordings } = bringUpPreset(JSON.parse(text));
      const files = new Map(
        recordings.flatMap(({ id, media }) => (media === null ? [] : [[id, originalPath(dataFolder, media)]]))
      );
      return { name, steps: steps.map((step) => withFiles(step, files)) };
    });
  } finally {
    await sequelize.close();
  }
}

function withFiles(step: RecipeStep, files: ReadonlyMap<string | undefined, string | undefined>): RecipeStep {
  const params = { ...step.params };
  for (const param of findEffect(step.effect)?.params ?? []) {
    const file = param.kind === "recording" ? files.get(String(params[param.id])) : undefined;
    if (file !== undefined) params[param.id] = file;
  }
  return { ...step, params };
}
