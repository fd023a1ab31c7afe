import type { RequestEvent } from "./$types";
import { subscribe } from "$lib/server/events";
import { gathered } from "$lib/server/gathered";
import { route } from "$lib/server/http";
import { needProject } from "$lib/server/services/projects";

const KEEP_ALIVE_MS = 15000;

/** Server-sent events of one project, each some news in their order: accepted edits, jobs, the condition of recordings. */
export const GET = route(async ({ params }: RequestEvent) => {
  await needProject(params.id);
  const encoder = new TextEncoder();
  let stop: () => void = () => undefined;
  const stream = new ReadableStream({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const news = gathered((some) => send(`data: ${JSON.stringify(some)}\n\n`));
      const unsubscribe = subscribe(params.id, (one) => news.add(one));
      const beat = setInterval(() => send(": still here\n\n"), KEEP_ALIVE_MS);
      stop = () => {
        clearInterval(beat);
        unsubscribe();
        news.stop();
      };
      send(": open\n\n");
    },
    cancel: () => stop()
  });
  return new Response(stream, {
    headers: { "content-type": "text/event-stream", "cache-control": "no-store", "x-accel-buffering": "no" }
  });
});
