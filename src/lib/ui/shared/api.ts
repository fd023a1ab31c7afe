// Calls to the server. A refusal becomes an error whose message is the server's sentence.

/** What the server refused, with its status. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string
  ) {
    super(message);
  }
}

async function call<T>(method: string, url: string, body?: unknown): Promise<T> {
  let answer: Response;
  const plain = body === undefined || body instanceof Blob;
  try {
    answer = await fetch(url, {
      method,
      headers: plain ? {} : { "content-type": "application/json" },
      body: plain ? body : JSON.stringify(body)
    });
  } catch {
    throw new Refused(
      0,
      "Wring's server does not answer. Is it still running? What you see may not be saved."
    );
  }
  const value = (await answer.json()) as T & { error?: string };
  if (!answer.ok) throw new Refused(answer.status, value.error ?? "Wring's server could not do that.");
  return value;
}

export const api = {
  get: <T>(url: string) => call<T>("GET", url),
  post: <T>(url: string, body: unknown = {}) => call<T>("POST", url, body),
  /** Sends bytes as they are. */
  send: <T>(url: string, bytes: Blob) => call<T>("POST", url, bytes),
  patch: <T>(url: string, body: unknown) => call<T>("PATCH", url, body),
  remove: <T>(url: string) => call<T>("DELETE", url)
};
