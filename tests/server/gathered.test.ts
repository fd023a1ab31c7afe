// News of a project is told at once after a quiet time, and some at a time while much happens.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { JobState, JobView } from "../../src/lib/api/jobs";
import type { ProjectNews } from "../../src/lib/api/types";
import { gathered, TOLD_EVERY_MS } from "../../src/lib/server/gathered";

const job = (id: string, state: JobState, progress = 0): ProjectNews => ({
  type: "job",
  job: { id, state, progress, endedAt: null } as JobView
});
const said = (news: readonly ProjectNews[]) =>
  news.map((one) => (one.type === "job" ? `${one.job.id} ${one.job.state} ${one.job.progress}` : one.type));

describe("news of a project", () => {
  let told: string[][];
  let news: ReturnType<typeof gathered>;

  beforeEach(() => {
    vi.useFakeTimers();
    told = [];
    news = gathered((some) => told.push(said(some)));
  });
  afterEach(() => vi.useRealTimers());

  it("is told at once, and what follows soon is told together", () => {
    news.add(job("a", "queued"));
    expect(told).toEqual([["a queued 0"]]);
    news.add({ type: "entries", entries: [] });
    news.add(job("b", "queued"));
    vi.advanceTimersByTime(TOLD_EVERY_MS - 1);
    expect(told).toHaveLength(1);
    vi.advanceTimersByTime(1);
    expect(told[1]).toEqual(["entries", "b queued 0"]);
    vi.advanceTimersByTime(TOLD_EVERY_MS);
    news.add(job("b", "running"));
    expect(told[2]).toEqual(["b running 0"]);
  });

  it("leaves out how far a job was when it is further, and nothing else", () => {
    news.add(job("a", "queued"));
    news.add(job("b", "queued"));
    news.add(job("a", "running"));
    news.add(job("b", "running", 0.25));
    news.add(job("a", "running", 0.5));
    news.add(job("a", "done", 1));
    vi.advanceTimersByTime(TOLD_EVERY_MS);
    expect(told[1]).toEqual(["b queued 0", "b running 0.25", "a done 1"]);
  });

  it("is not told any more when no one listens", () => {
    news.add(job("a", "queued"));
    news.add(job("a", "running"));
    news.stop();
    vi.advanceTimersByTime(10 * TOLD_EVERY_MS);
    expect(told).toHaveLength(1);
  });
});
