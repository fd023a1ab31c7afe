// What all routes share: checking what comes in, and answering faults with their sentence.
import { createReadStream, statSync } from "node:fs";
import { Readable } from "node:stream";
import { error, isHttpError, json, type RequestEvent } from "@sveltejs/kit";
import type { z } from "zod";
import { sentenceOf, UNKNOWN_FAULT, UserFault } from "./faults";
import { log } from "./log";

/** The body of a request as the schema wants it. @throws UserFault 400 naming the first fault */
export async function body<S extends z.ZodType>(event: RequestEvent, schema: S): Promise<z.infer<S>> {
  let raw: unknown;
  try {
    raw = await event.request.json();
  } catch {
    throw new UserFault(400, "The request is not JSON.");
  }
  const parsed = schema.safeParse(raw);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  const where = issue?.path.join(".") ?? "";
  const what = issue?.message ?? "is not right";
  throw new UserFault(400, where === "" ? what : `${where}: ${what}`);
}

/** Wraps a route: its value is answered as JSON, faults as `{ error }` with their status. */
export function route<E extends RequestEvent>(
  work: (event: E) => Promise<unknown>
): (event: E) => Promise<Response> {
  return async (event) => {
    try {
      const value = await work(event);
      return value instanceof Response ? value : json(value ?? {});
    } catch (fault) {
      if (isHttpError(fault)) throw fault;
      const sentence = sentenceOf(fault);
      if (!sentence)
        log.error(
          { url: event.url.pathname, error: String((fault as Error).stack ?? fault) },
          "request failed"
        );
      const status = fault instanceof UserFault ? fault.status : sentence ? 507 : 500;
      return json({ error: sentence ?? UNKNOWN_FAULT }, { status });
    }
  };
}

const MOST_ANSWERED = 2 ** 53;

/** The range of bytes that a Range header asks for; undefined for the whole; null when there is no such part. Source: RFC 9110, section 14. */
function byteRange(header: string | null, size: number): { from: number; to: number } | undefined | null {
  const match = /^bytes=(\d*)-(\d*)$/.exec(header ?? "");
  if (!match || (match[1] === "" && match[2] === "")) return undefined;
  const last = match[2] === "" ? MOST_ANSWERED : Number(match[2]);
  if (match[1] === "") return last === 0 ? null : { from: Math.max(0, size - last), to: size - 1 };
  const from = Number(match[1]);
  if (from >= size) return null;
  return last < from ? undefined : { from, to: Math.min(size - 1, last) };
}

/** A file, or the part of it that was asked for. */
export function fileResponse(request: Request, file: string, headers: Record<string, string>): Response {
  const { size } = statSync(file);
  const range = byteRange(request.headers.get("range"), size);
  if (range === null)
    return new Response(null, { status: 416, headers: { "content-range": `bytes */${size}` } });
  const { from, to } = range ?? { from: 0, to: size - 1 };
  const stream = Readable.toWeb(createReadStream(file, { start: from, end: to })) as ReadableStream;
  return new Response(stream, {
    status: range ? 206 : 200,
    headers: {
      ...headers,
      "accept-ranges": "bytes",
      "content-length": String(to - from + 1),
      ...(range ? { "content-range": `bytes ${from}-${to}/${size}` } : {})
    }
  });
}

/** For page loads: faults become error pages. */
export async function orErrorPage<T>(work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (fault) {
    if (fault instanceof UserFault) error(fault.status, fault.message);
    throw fault;
  }
}

/** Bytes that never change, since they are named by their content. */
export function immutableBytes(bytes: Uint8Array<ArrayBuffer>): Response {
  return new Response(bytes, {
    headers: {
      "content-type": "application/octet-stream",
      "cache-control": "private, max-age=31536000, immutable"
    }
  });
}
