// What all routes share: checking what comes in, and answering faults with their sentence.
import { error, isHttpError, json, type RequestEvent } from "@sveltejs/kit";
import type { z } from "zod";
import { sentenceOf, UserFault } from "./faults";
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
  const { path, message } = parsed.error.issues[0];
  throw new UserFault(400, path.length > 0 ? `${path.join(".")}: ${message}` : message);
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
      return json({ error: sentence ?? "Something went wrong in Wring. Nothing was changed." }, { status });
    }
  };
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
