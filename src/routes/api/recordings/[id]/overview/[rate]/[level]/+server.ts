import type { RequestEvent } from "./$types";
import { immutableBytes, route } from "$lib/server/http";
import { overviewBins } from "$lib/server/services/audio";

export const GET = route(async ({ params, url }: RequestEvent) => {
  const whole = (name: string) => Math.trunc(Number(url.searchParams.get(name)));
  return immutableBytes(
    await overviewBins(params.id, Number(params.rate), Number(params.level), whole("from"), whole("bins"))
  );
});
