// The server listens on this machine only; a page of another site must still not reach it through the user's browser.

export const isolationHeaders = {
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Embedder-Policy": "require-corp",
  "Cross-Origin-Resource-Policy": "same-origin",
  "X-Content-Type-Options": "nosniff",
  "Referrer-Policy": "no-referrer"
};

/**
 * Why a request is refused, undefined when it is not. The Host must be this machine by name or number (a foreign name that
 * resolves here is DNS rebinding); a request that a page makes must come from this very origin.
 */
export function guard(request, port) {
  const hosts = [`127.0.0.1:${port}`, `localhost:${port}`];
  const host = request.headers.host ?? "";
  if (!hosts.includes(host)) return "Wring answers only to requests addressed to this machine.";
  const origin = request.headers.origin;
  if (origin !== undefined && origin !== `http://${host}`) return "Wring answers only to its own pages.";
  const site = request.headers["sec-fetch-site"];
  if (site === "cross-site" && request.method !== "GET") return "Wring answers only to its own pages.";
  return undefined;
}
