import {
  DataTypes,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Model,
  type ModelStatic,
  type Sequelize
} from "sequelize";

interface Row<M extends Model> extends Model<InferAttributes<M>, InferCreationAttributes<M>> {
  createdAt: CreationOptional<Date>;
  updatedAt: CreationOptional<Date>;
}

export interface ProjectRow extends Row<ProjectRow> {
  id: string;
  /** The document as JSON. */
  document: string;
  revision: number;
}

export interface EditRow extends Row<EditRow> {
  id: CreationOptional<number>;
  projectId: string;
  label: string;
  command: string;
  patches: string;
  inverse: string;
  undone: boolean;
}

export interface RecordingRow extends Row<RecordingRow> {
  id: string;
  hash: string;
  sampleRate: number;
  channels: number;
  frames: number;
  kind: "import" | "render";
}

export interface PresetRow extends Row<PresetRow> {
  id: string;
  name: string;
  notes: string;
  steps: string;
}

export type JobState = "queued" | "running" | "done" | "failed" | "cancelled";
export type JobKind = "import" | "render" | "measure" | "export";

export interface JobRow extends Row<JobRow> {
  id: string;
  projectId: string | null;
  kind: JobKind;
  title: string;
  state: JobState;
  progress: number;
  payload: string;
  result: string | null;
  error: string | null;
}

export interface Models {
  readonly Project: ModelStatic<ProjectRow>;
  readonly Edit: ModelStatic<EditRow>;
  readonly Recording: ModelStatic<RecordingRow>;
  readonly Preset: ModelStatic<PresetRow>;
  readonly Job: ModelStatic<JobRow>;
}

// Sequelize writes into attribute objects, so every column gets one of its own.
const key = () => ({ type: DataTypes.STRING(64), primaryKey: true });
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const optional = () => ({ type: DataTypes.TEXT, allowNull: true });
const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
const dates = () => ({ createdAt: DataTypes.DATE, updatedAt: DataTypes.DATE });

/** The tables as migrations leave them. */
export function defineModels(sequelize: Sequelize): Models {
  return {
    Project: sequelize.define<ProjectRow>("project", {
      id: key(),
      document: text(),
      revision: whole(),
      ...dates()
    }),
    Edit: sequelize.define<EditRow>("edit", {
      id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
      projectId: text(),
      label: text(),
      command: text(),
      patches: text(),
      inverse: text(),
      undone: { type: DataTypes.BOOLEAN, allowNull: false },
      ...dates()
    }),
    Recording: sequelize.define<RecordingRow>("recording", {
      id: key(),
      hash: text(),
      sampleRate: whole(),
      channels: whole(),
      frames: { type: DataTypes.BIGINT, allowNull: false },
      kind: text(),
      ...dates()
    }),
    Preset: sequelize.define<PresetRow>("preset", {
      id: key(),
      name: text(),
      notes: text(),
      steps: text(),
      ...dates()
    }),
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
      ...dates()
    })
  };
}
