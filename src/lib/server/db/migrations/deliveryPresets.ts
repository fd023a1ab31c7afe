import { DataTypes, type QueryInterface } from "sequelize";

const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const date = () => ({ type: DataTypes.DATE, allowNull: false });

/** Saved settings of deliveries. */
export const deliveryPresets = {
  name: "003-delivery-presets",
  async up({ context: q }: { context: QueryInterface }) {
    await q.createTable("deliveryPresets", {
      id: { type: DataTypes.STRING(64), primaryKey: true },
      name: { ...text(), unique: true },
      settings: text(),
      createdAt: date(),
      updatedAt: date()
    });
  }
};
