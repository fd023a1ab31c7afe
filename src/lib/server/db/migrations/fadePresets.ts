import { DataTypes, type QueryInterface } from "sequelize";

const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const date = () => ({ type: DataTypes.DATE, allowNull: false });

/** Saved shapes of fades. */
export const fadePresets = {
  name: "004-fade-presets",
  async up({ context: q }: { context: QueryInterface }) {
    await q.createTable("fadePresets", {
      id: { type: DataTypes.STRING(64), primaryKey: true },
      name: { ...text(), unique: true },
      shape: text(),
      createdAt: date(),
      updatedAt: date()
    });
  }
};
