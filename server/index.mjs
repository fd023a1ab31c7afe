// The production server: the built application behind checks that hold for every request, static files included.
import http from "node:http";
import { bodyFault, guard, isolationHeaders } from "./guard.mjs";

const port = Number(process.env.PORT ?? 4680);
process.env.BODY_SIZE_LIMIT ??= "64M";
process.env.SHUTDOWN_TIMEOUT ??= "2";
process.env.ORIGIN ??= `http://127.0.0.1:${port}`;
const CLOSING_MS = 8000;

/** @type {Promise<(request: http.IncomingMessage, response: http.ServerResponse, next: () => void) => void>} */
let application;

/** @param {http.ServerResponse} response @param {number} status @param {string} sentence */
function refuse(response, status, sentence) {
  response.writeHead(status, { "content-type": "text/plain; charset=utf-8" });
  response.end(sentence);
}

const server = http.createServer((request, response) => {
  for (const [name, value] of Object.entries(isolationHeaders)) response.setHeader(name, value);
  const refusal = guard(request, port);
  if (refusal) return refuse(response, 403, refusal);
  const fault = bodyFault(request);
  if (fault) {
    // What is not read would be taken for the next request.
    response.setHeader("connection", "close");
    return refuse(response, fault.status, fault.sentence);
  }
  // No name or id has a zero in it; Node itself refuses other control characters.
  if ((request.url ?? "").includes("%00")) return refuse(response, 404, "There is no such page.");
  application.then((handle) =>
    handle(request, response, () => refuse(response, 404, "There is no such page."))
  );
});
server.requestTimeout = 0;
server.on("error", (error) => {
  console.error(
    /** @type {NodeJS.ErrnoException} */ (error).code === "EADDRINUSE"
      ? `Port ${port} is in use. Set PORT to another number, or end what uses it.`
      : `The server could not start: ${error.message}`
  );
  process.exit(1);
});

// The port first: whoever cannot have it must not touch the data folder either.
server.listen(port, "127.0.0.1", async () => {
  try {
    // By its address: the built application has no types of its own.
    const built = new URL("../build/app/handler.js", import.meta.url).href;
    application = import(built).then(({ handler }) => handler);
    await application;
  } catch (error) {
    console.error(error instanceof Error ? error.message : String(error));
    process.exit(1);
  }
  console.log(`Wring is ready: http://127.0.0.1:${port}`);
  process.send?.("ready");
});

let stopping = false;
async function stop() {
  if (stopping) return;
  stopping = true;
  setTimeout(() => process.exit(0), CLOSING_MS).unref();
  server.close();
  server.closeAllConnections();
  const close = /** @type {{ wringClose?: () => Promise<void> }} */ (globalThis).wringClose;
  await close?.();
  process.exit(0);
}
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
