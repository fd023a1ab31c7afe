import { newDeliveryPresetSchema } from "$lib/api/delivery";
import { body, route } from "$lib/server/http";
import { listDeliveryPresets, saveDeliveryPreset } from "$lib/server/services/deliveryPresets";

export const GET = route(() => listDeliveryPresets());

export const POST = route(async (event) => saveDeliveryPreset(await body(event, newDeliveryPresetSchema)));
