// The server listens on this machine only; a page of another site must still not reach it through the user's browser.

/** Headers of every answer. Pages have a policy of their own, made when they are built; this one is for all else, workers among it. */
export const isolationHeaders = {
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Embedder-Policy": "require-corp",
  "Cross-Origin-Resource-Policy": "same-origin",
  "Content-Security-Policy":
    "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'",
  "X-Frame-Options": "DENY",
  "X-Content-Type-Options": "nosniff",
  "Referrer-Policy": "no-referrer"
};

/**
 * Why a request is refused, undefined when it is not. The Host must be this machine by name or number (a foreign name that
 * resolves here is DNS rebinding); a request that a page makes must come from this very origin.
 * @param {{ method?: string, headers: Record<string, string | string[] | undefined> }} request
 * @param {number} port
 * @returns {string | undefined}
 */
export function guard(request, port) {
  const hosts = [`127.0.0.1:${port}`, `localhost:${port}`];
  const host = String(request.headers.host ?? "");
  if (!hosts.includes(host)) return "Wring answers only to requests addressed to this machine.";
  const origin = request.headers.origin;
  if (origin !== undefined && origin !== `http://${host}`) return "Wring answers only to its own pages.";
  const site = request.headers["sec-fetch-site"];
  if (site === "cross-site" && request.method !== "GET") return "Wring answers only to its own pages.";
  return undefined;
}

const MOST_BYTES = 8e6;
const MOST_UPLOADED_AT_ONCE = 64e6;

/**
 * Why a request's body is not read at all; undefined when it is. Its length must be said.
 * @param {{ method?: string, url?: string, headers: Record<string, string | string[] | undefined> }} request
 * @returns {{ status: number, sentence: string } | undefined}
 */
export function bodyFault({ method, url, headers }) {
  if (headers["transfer-encoding"] !== undefined && headers["content-length"] === undefined)
    return { status: 411, sentence: "Wring reads only what says its length." };
  const length = Number(headers["content-length"] ?? 0);
  const upload = method === "PATCH" && (url ?? "").startsWith("/api/uploads/");
  const most = upload ? MOST_UPLOADED_AT_ONCE : MOST_BYTES;
  if (length > most)
    return { status: 413, sentence: `That is more than the ${most / 1e6} MB that Wring takes at once.` };
  return undefined;
}
