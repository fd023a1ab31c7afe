// News on its way to a page, some at a time: while much happens, as when a folder is imported, a page that drew itself anew for each piece would
// do little else.
import type { ProjectNews } from "$lib/api/types";

/** Between two deliveries lie so many ms. What comes after a quiet time is told at once. */
export const TOLD_EVERY_MS = 200;

/** What a later piece of news makes of those that wait: how far a job was does not matter once it is further. */
function withNews(waiting: readonly ProjectNews[], news: ProjectNews): ProjectNews[] {
  if (news.type !== "job") return [...waiting, news];
  const { id } = news.job;
  return [
    ...waiting.filter((one) => one.type !== "job" || one.job.id !== id || one.job.state !== "running"),
    news
  ];
}

/** @param tell gets at least one piece of news at a time, in their order */
export function gathered(tell: (news: readonly ProjectNews[]) => void): {
  add(news: ProjectNews): void;
  stop(): void;
} {
  let waiting: ProjectNews[] = [];
  let rest: ReturnType<typeof setTimeout> | undefined;
  const deliver = () => {
    const told = waiting;
    waiting = [];
    rest = told.length > 0 ? setTimeout(deliver, TOLD_EVERY_MS) : undefined;
    if (told.length > 0) tell(told);
  };
  return {
    add(news) {
      waiting = withNews(waiting, news);
      if (rest === undefined) deliver();
    },
    stop: () => clearTimeout(rest)
  };
}
