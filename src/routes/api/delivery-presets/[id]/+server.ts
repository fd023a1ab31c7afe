import type { RequestEvent } from "./$types";
import { route } from "$lib/server/http";
import { deleteDeliveryPreset } from "$lib/server/services/deliveryPresets";

export const DELETE = route((event: RequestEvent) => deleteDeliveryPreset(event.params.id));
