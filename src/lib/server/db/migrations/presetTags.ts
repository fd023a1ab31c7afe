import { DataTypes, type QueryInterface } from "sequelize";

const text = (defaultValue: string) => ({ type: DataTypes.TEXT, allowNull: false, defaultValue });

/** Words to find presets by; notes of fades. */
export const presetTags = {
  name: "005-preset-tags",
  async up({ context: q }: { context: QueryInterface }) {
    await q.addColumn("presets", "tags", text("[]"));
    await q.addColumn("fadePresets", "tags", text("[]"));
    await q.addColumn("fadePresets", "notes", text(""));
  }
};
