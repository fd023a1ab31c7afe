// The production server: the built application behind checks that hold for every request, static files included.
import http from "node:http";
import { guard, isolationHeaders } from "./guard.mjs";

const port = Number(process.env.PORT ?? 4680);
process.env.BODY_SIZE_LIMIT ??= "64M";
process.env.SHUTDOWN_TIMEOUT ??= "2";
process.env.ORIGIN ??= `http://127.0.0.1:${port}`;

const { handler } = await import("../build/app/handler.js");

const server = http.createServer((request, response) => {
  for (const [name, value] of Object.entries(isolationHeaders)) response.setHeader(name, value);
  const refusal = guard(request, port);
  if (refusal) {
    response.writeHead(403, { "content-type": "text/plain; charset=utf-8" });
    response.end(refusal);
    return;
  }
  handler(request, response, () => {
    response.writeHead(404, { "content-type": "text/plain; charset=utf-8" });
    response.end("There is no such page.");
  });
});
server.requestTimeout = 0;
server.on("error", (error) => {
  console.error(
    error.code === "EADDRINUSE"
      ? `Port ${port} is in use. Set PORT to another number, or end what uses it.`
      : `The server could not start: ${error.message}`
  );
  process.exit(1);
});
server.listen(port, "127.0.0.1", () => {
  console.log(`Wring is ready: http://127.0.0.1:${port}`);
  process.send?.("ready");
});

function stop() {
  server.closeAllConnections();
  server.close(() => process.exit(0));
  setTimeout(() => process.exit(0), 2000).unref();
}
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
