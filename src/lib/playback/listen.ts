// Has something heard on the server: what is too long for the page to fetch.
import type { LessonJson, ListenLine, ListenWish } from "$lib/api/listening";
import type { FarLearner } from "./chunkStore";

/** A line at a time of an answer that grows. */
async function* linesOf(answer: Response): AsyncGenerator<ListenLine> {
  const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  while (reader) {
    const { done, value } = await reader.read();
    if (done) return;
    const lines = (rest + value).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) yield JSON.parse(line) as ListenLine;
  }
}

/**
 * Asks the server to hear something.
 * @param hear told every line but the last
 * @returns the last line, with the result
 * @throws when the server refuses, fails, or does not answer to the end; AbortError when given up
 */
export async function listen(
  projectId: string,
  wish: ListenWish,
  signal: AbortSignal,
  hear: (line: ListenLine & { type: "progress" }) => void
): Promise<Exclude<ListenLine, { type: "progress" | "failed" }>> {
  const answer = await fetch(`/api/projects/${projectId}/listen`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(wish),
    signal
  });
  if (!answer.ok) throw new Error(((await answer.json()) as { error: string }).error);
  for await (const line of linesOf(answer)) {
    if (line.type === "failed") throw new Error(line.error);
    if (line.type !== "progress") return line;
    hear(line);
  }
  throw new Error("Wring's server stopped before it had heard all of the sound.");
}

const WATCH_MS = 100;

/** Learns on the server what the steps of a project's parts have to. */
export function farLearner(projectId: string): FarLearner {
  return async (part, wanted, report): Promise<LessonJson | undefined> => {
    const stop = new AbortController();
    const watch = setInterval(() => {
      if (!wanted()) stop.abort();
    }, WATCH_MS);
    try {
      const last = await listen(projectId, { kind: "learn", part }, stop.signal, ({ share }) =>
        report(share)
      );
      if (last.type !== "lesson") throw new Error("Wring's server answered something else than was asked.");
      return last.lesson;
    } catch (error) {
      if (stop.signal.aborted) return undefined;
      throw error;
    } finally {
      clearInterval(watch);
    }
  };
}
