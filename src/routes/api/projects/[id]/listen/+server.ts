import type { RequestEvent } from "./$types";
import { listenSchema, type ListenLine } from "$lib/api/listening";
import { sentenceOf } from "$lib/server/faults";
import { body, route } from "$lib/server/http";
import { log } from "$lib/server/log";
import { listen } from "$lib/server/services/listening";
import { needProject } from "$lib/server/services/projects";

/** Hears something and answers in lines of JSON: how far it is, then the result. Closing the connection ends the work. */
export const POST = route(async (event: RequestEvent) => {
  const wish = await body(event, listenSchema);
  await needProject(event.params.id);
  const stop = new AbortController();
  event.request.signal.addEventListener("abort", () => stop.abort());
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = (line: ListenLine) => {
        if (!stop.signal.aborted) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`));
      };
      try {
        send(
          await listen(event.params.id, wish, stop.signal, (share, soFar) =>
            send({ type: "progress", share, ...(soFar ? { soFar } : {}) })
          )
        );
      } catch (error) {
        if (stop.signal.aborted) return;
        const sentence = sentenceOf(error);
        if (!sentence) log.error({ error: String((error as Error).stack ?? error) }, "listening failed");
        send({ type: "failed", error: sentence ?? "Something went wrong in Wring. Nothing was changed." });
      }
      if (!stop.signal.aborted) controller.close();
    },
    cancel() {
      stop.abort();
    }
  });
  return new Response(stream, {
    headers: { "content-type": "application/x-ndjson", "cache-control": "no-store" }
  });
});
