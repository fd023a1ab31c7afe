import { DataTypes, type QueryInterface } from "sequelize";

const key = () => ({ type: DataTypes.STRING(64), primaryKey: true });
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const optional = () => ({ type: DataTypes.TEXT, allowNull: true });
const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
const date = () => ({ type: DataTypes.DATE, allowNull: false });
const dates = () => ({ createdAt: date(), updatedAt: date() });

/** The first landed version: a project is one row with its document as JSON. */
export const first = {
  name: "001-first",
  async up({ context: q }: { context: QueryInterface }) {
    await q.createTable("projects", { id: key(), document: text(), revision: whole(), ...dates() });
    await q.createTable("edits", {
      id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
      projectId: {
        type: DataTypes.STRING(64),
        allowNull: false,
        references: { model: "projects", key: "id" },
        onDelete: "CASCADE"
      },
      label: text(),
      command: text(),
      patches: text(),
      inverse: text(),
      undone: { type: DataTypes.BOOLEAN, allowNull: false },
      ...dates()
    });
    await q.addIndex("edits", ["projectId", "undone"]);
    await q.createTable("recordings", {
      id: key(),
      hash: { ...text(), unique: true },
      sampleRate: whole(),
      channels: whole(),
      frames: { type: DataTypes.BIGINT, allowNull: false },
      kind: text(),
      ...dates()
    });
    await q.createTable("presets", {
      id: key(),
      name: { ...text(), unique: true },
      notes: text(),
      steps: text(),
      ...dates()
    });
    await q.createTable("jobs", {
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
    });
  }
};
