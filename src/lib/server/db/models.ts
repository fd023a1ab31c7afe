import {
  DataTypes,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Model,
  type ModelStatic,
  type Sequelize
} from "sequelize";
import type { JobState } from "$lib/api/jobs";

interface Row<M extends Model> extends Model<InferAttributes<M>, InferCreationAttributes<M>> {
  createdAt: CreationOptional<Date>;
  updatedAt: CreationOptional<Date>;
}

/** A project without its entities: what the list of projects shows. */
export interface ProjectRow extends Row<ProjectRow> {
  id: string;
  name: string;
  sampleRate: number;
  tracks: number;
  lengthFrames: number;
  revision: number;
  version: number;
  /** JSON of what the document holds beside its tables. */
  rest: string;
  /** Why it cannot be opened; null: it can. */
  fault: CreationOptional<string | null>;
  /** When it was put into the bin; null: it is not there. */
  deletedAt: CreationOptional<Date | null>;
}

export interface RecordingRow extends Row<RecordingRow> {
  id: string;
  hash: string;
  sampleRate: number;
  channels: number;
  frames: number;
  kind: "import" | "render";
  /** What the last check of its file found. */
  state: CreationOptional<"good" | "damaged" | "missing">;
  checkedAt: CreationOptional<Date | null>;
  /** Since when nothing has needed it; null: something does. */
  unusedSince: CreationOptional<Date | null>;
}

export interface PresetRow extends Row<PresetRow> {
  id: string;
  name: string;
  notes: string;
  /** JSON of its tags. */
  tags: CreationOptional<string>;
  /** JSON of a preset: version, steps, recordings. */
  steps: string;
}

export interface DeliveryPresetRow extends Row<DeliveryPresetRow> {
  id: string;
  name: string;
  /** JSON of the settings. */
  settings: string;
}

export interface FadePresetRow extends Row<FadePresetRow> {
  id: string;
  name: string;
  notes: CreationOptional<string>;
  /** JSON of its tags. */
  tags: CreationOptional<string>;
  /** JSON of the shape. */
  shape: string;
}

export interface JobRow extends Row<JobRow> {
  id: string;
  projectId: string | null;
  kind: string;
  title: string;
  state: JobState;
  progress: number;
  payload: string;
  result: string | null;
  error: string | null;
  endedAt: CreationOptional<Date | null>;
}

export interface Models {
  readonly Project: ModelStatic<ProjectRow>;
  readonly Recording: ModelStatic<RecordingRow>;
  readonly Preset: ModelStatic<PresetRow>;
  readonly DeliveryPreset: ModelStatic<DeliveryPresetRow>;
  readonly FadePreset: ModelStatic<FadePresetRow>;
  readonly Job: ModelStatic<JobRow>;
}

// Sequelize writes into attribute objects, so every column gets one of its own.
const key = () => ({ type: DataTypes.STRING(64), primaryKey: true });
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const words = () => ({ type: DataTypes.TEXT, allowNull: false, defaultValue: "[]" });
const optional = () => ({ type: DataTypes.TEXT, allowNull: true });
const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
const moment = () => ({ type: DataTypes.DATE, allowNull: true });
const dates = () => ({ createdAt: DataTypes.DATE, updatedAt: DataTypes.DATE });

/** The tables as migrations leave them. Entities and edits are read and written by SQL of their own (`entityRows`, `editRows`). */
export function defineModels(sequelize: Sequelize): Models {
  return {
    Project: sequelize.define<ProjectRow>("project", {
      id: key(),
      name: text(),
      sampleRate: whole(),
      tracks: whole(),
      lengthFrames: { type: DataTypes.BIGINT, allowNull: false },
      revision: whole(),
      version: whole(),
      rest: text(),
      fault: optional(),
      deletedAt: moment(),
      ...dates()
    }),
    Recording: sequelize.define<RecordingRow>("recording", {
      id: key(),
      hash: text(),
      sampleRate: whole(),
      channels: whole(),
      frames: { type: DataTypes.BIGINT, allowNull: false },
      kind: text(),
      state: { type: DataTypes.TEXT, allowNull: false, defaultValue: "good" },
      checkedAt: moment(),
      unusedSince: moment(),
      ...dates()
    }),
    Preset: sequelize.define<PresetRow>("preset", {
      id: key(),
      name: text(),
      notes: text(),
      tags: words(),
      steps: text(),
      ...dates()
    }),
    DeliveryPreset: sequelize.define<DeliveryPresetRow>(
      "deliveryPreset",
      { id: key(), name: text(), settings: text(), ...dates() },
      { tableName: "deliveryPresets" }
    ),
    FadePreset: sequelize.define<FadePresetRow>(
      "fadePreset",
      {
        id: key(),
        name: text(),
        notes: { ...text(), defaultValue: "" },
        tags: words(),
        shape: text(),
        ...dates()
      },
      { tableName: "fadePresets" }
    ),
    Job: sequelize.define<JobRow>("job", {
      id: key(),
      projectId: { type: DataTypes.STRING(64), allowNull: true },
      kind: text(),
      title: text(),
      state: text(),
      progress: { type: DataTypes.FLOAT, allowNull: false },
      payload: text(),
      result: optional(),
      error: optional(),
      endedAt: moment(),
      ...dates()
    })
  };
}
