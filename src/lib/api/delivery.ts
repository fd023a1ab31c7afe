// Deliveries as pages order and see them.
import { z } from "zod";
import { deliverySettingsSchema, type DeliverySettings } from "$lib/core/delivery/settings";
import { wantedSchema } from "$lib/core/delivery/items";
import type { MeasurementJson } from "$lib/core/measure/json";
import type { JobView } from "./jobs";

export const newDeliverySchema = z.object({ wanted: wantedSchema, settings: deliverySettingsSchema });
export type NewDelivery = z.infer<typeof newDeliverySchema>;

/** A file that was delivered. */
export interface DeliveredFile {
  readonly fileName: string;
  readonly bytes: number;
  readonly frames: number;
  readonly sampleRate: number;
  readonly channels: number;
  /** Of the written file, decoded again. */
  readonly measurement: MeasurementJson;
  readonly gainDb: number;
  /** By how much its level was missed because the ceiling came first. */
  readonly shortDb: number;
  /** By how much coding raised the true peak; null for silence. */
  readonly overshootDb: number | null;
  readonly rounds: number;
  readonly ceilingDbtp: number | null;
  readonly lossy: boolean;
  /** Names of recordings in it whose file is damaged or missing. */
  readonly broken: readonly string[];
}

/** One file of a delivery: under way, done, or refused. */
export interface DeliveryView {
  readonly job: JobView;
  readonly fileName: string;
  readonly delivered: DeliveredFile | null;
  /** Whether the file can still be fetched. */
  readonly kept: boolean;
}

export const newDeliveryPresetSchema = z.object({
  name: z.string().trim().min(1, "A preset needs a name.").max(80),
  settings: deliverySettingsSchema
});

export interface DeliveryPresetView {
  readonly id: string;
  readonly name: string;
  readonly settings: DeliverySettings;
}
