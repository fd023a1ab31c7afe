import type { RequestEvent } from "./$types";
import { newDeliverySchema } from "$lib/api/delivery";
import { body, route } from "$lib/server/http";
import { deliveriesOf, orderDelivery } from "$lib/server/services/deliveries";

export const GET = route((event: RequestEvent) => deliveriesOf(event.params.id));

export const POST = route(async (event: RequestEvent) =>
  orderDelivery(event.params.id, await body(event, newDeliverySchema))
);
