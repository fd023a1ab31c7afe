// Jobs as a page sees them: news, what it missed, and how each kind ends.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { JobsView, JobView } from "../../src/lib/api/jobs";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import { Jobs } from "../../src/lib/ui/state/jobs.svelte";
import type { Session } from "../../src/lib/ui/state/session.svelte";

const { told } = vi.hoisted(() => ({ told: vi.fn() }));
vi.mock("../../src/lib/ui/state/imports.svelte", () => ({
  Imports: class {
    rows = [];
    resume = () => Promise.resolve();
    heard = told;
  }
}));

class FakeEvents {
  static last: FakeEvents;
  onmessage: (event: { data: string }) => void = () => undefined;
  onopen: () => void = () => undefined;
  closed = false;
  constructor() {
    FakeEvents.last = this;
  }
  tell(...news: unknown[]): void {
    this.onmessage({ data: JSON.stringify(news) });
  }
  close(): void {
    this.closed = true;
  }
}

const job = (change: Partial<JobView>): JobView => ({
  id: "j",
  projectId: "p",
  kind: "export",
  title: "Export Episode",
  state: "running",
  progress: 0.5,
  error: null,
  result: null,
  endedAt: null,
  ...change
});
const over = (change: Partial<JobView>) =>
  job({ state: "done", progress: 1, endedAt: "2026-01-01T00:00:00Z", ...change });
const exported = {
  fileName: "Episode.wav",
  frames: 1,
  bytes: 2e6,
  measurement: { integratedLufs: -16.04, truePeakDbtp: -1.2 }
};

const answers = new Map<string, unknown>();
const asked: string[] = [];
const session = {
  projectId: "p",
  settled: vi.fn(() => Promise.resolve()),
  catchUp: vi.fn(() => Promise.resolve()),
  receive: vi.fn(() => Promise.resolve()),
  heardOfRecording: vi.fn()
};
const kept = new Map<string, string>();
let jobs: Jobs;
const texts = () => notices.list.map((n) => n.text);

beforeEach(() => {
  told.mockClear();
  vi.stubGlobal("EventSource", FakeEvents);
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v)
  });
  vi.stubGlobal("fetch", (url: string, options: { method: string }) => {
    asked.push(`${options.method} ${url}`);
    const value = answers.get(`${options.method} ${url.split("?")[0]}`);
    return Promise.resolve(
      Response.json(value ?? { error: "There is nothing." }, { status: value ? 200 : 404 })
    );
  });
  answers.clear();
  kept.clear();
  asked.length = 0;
  for (const notice of notices.list) notices.dismiss([notice.id]);
  jobs = new Jobs(session as unknown as Session, () => undefined);
});

afterEach(() => {
  jobs.close();
  vi.unstubAllGlobals();
});

describe("jobs", () => {
  it("show their progress until they end, and then their file", () => {
    FakeEvents.last.tell({ type: "job", job: job({}) });
    expect(jobs.list.map((w) => [w.title, w.progress])).toEqual([["Export Episode", 0.5]]);
    FakeEvents.last.tell({ type: "job", job: over({ result: exported }) });
    expect(jobs.list).toEqual([]);
    expect(texts()).toEqual(["Episode.wav is ready: -16.0 LUFS, -1.2 dBTP, 2.0 MB. "]);
    expect(notices.list[0]?.link?.href).toBe("/api/jobs/j/file");
  });

  it("name damaged recordings in an export", () => {
    FakeEvents.last.tell({ type: "job", job: over({ result: { ...exported, broken: ["Voice"] } }) });
    expect(texts()[1]).toContain('sound of damaged recordings: "Voice"');
  });

  it("that ended while no one listened are told once, when the page comes back; it asks from where it was", async () => {
    const view: JobsView = {
      open: [job({ id: "k" })],
      ended: [over({ result: exported })],
      until: "2026-02-02T00:00:00Z"
    };
    answers.set("GET /api/projects/p/jobs", view);
    FakeEvents.last.onopen();
    await vi.waitFor(() => expect(session.catchUp).toHaveBeenCalled());
    expect(jobs.list.map((w) => w.id)).toEqual(["k"]);
    // A file that was decoded meanwhile may have a row that still waits for that.
    expect(told.mock.calls.map(([{ id }]) => id as string)).toEqual(["k", "j"]);
    expect(texts()).toHaveLength(1);
    FakeEvents.last.onopen();
    await vi.waitFor(() =>
      expect(asked).toContain("GET /api/projects/p/jobs?since=2026-02-02T00%3A00%3A00Z")
    );
    FakeEvents.last.tell({ type: "job", job: over({ result: exported }) });
    expect(texts()).toHaveLength(1);
  });

  it("that were told are not asked for again when the project is opened anew", async () => {
    FakeEvents.last.tell({ type: "job", job: over({ result: exported }) });
    jobs.close();
    jobs = new Jobs(session as unknown as Session, () => undefined);
    FakeEvents.last.onopen();
    await vi.waitFor(() =>
      expect(asked).toContain("GET /api/projects/p/jobs?since=2026-01-01T00%3A00%3A00.001Z")
    );
  });

  it("that fail say why; that are cancelled say that nothing was changed", () => {
    FakeEvents.last.tell({
      type: "job",
      job: over({ state: "failed", error: '"x.wav" was not imported: it is empty.' })
    });
    FakeEvents.last.tell({ type: "job", job: over({ id: "l", state: "cancelled" }) });
    expect(texts()).toEqual([
      '"x.wav" was not imported: it is empty.',
      "Export Episode: cancelled, nothing was changed."
    ]);
  });

  it("a measurement ends with levels, or with the reason why there are none", () => {
    const levels = { untreated: {}, treated: {} };
    FakeEvents.last.tell({ type: "job", job: over({ id: "m", kind: "measure", result: levels }) });
    expect(jobs.measured).toEqual({ jobId: "m", result: levels });
    FakeEvents.last.tell({
      type: "job",
      job: over({ id: "n", kind: "measure", state: "failed", error: "The audio is missing." })
    });
    expect(jobs.measured).toEqual({ jobId: "n", fault: "The audio is missing." });
    FakeEvents.last.tell({ type: "job", job: over({ id: "o", kind: "measure", state: "cancelled" }) });
    expect(jobs.measured).toMatchObject({ jobId: "o", fault: expect.stringContaining("cancelled") });
  });

  it("are ordered once all edits are saved; one that ended before its first event is noticed", async () => {
    answers.set("POST /api/projects/p/jobs", job({ id: "q", state: "queued" }));
    answers.set("GET /api/jobs/q", over({ id: "q", result: exported }));
    expect(await jobs.start({ kind: "measure", clipId: "c" })).toBe("q");
    expect(session.settled).toHaveBeenCalled();
    expect(jobs.list).toEqual([]);
    // Events that come late don't bring it back.
    FakeEvents.last.tell({ type: "job", job: job({ id: "q" }) });
    expect(jobs.list).toEqual([]);
  });

  it("that are refused say why", async () => {
    expect(await jobs.start({ kind: "measure", clipId: "gone" })).toBeUndefined();
    expect(texts()).toEqual(["There is nothing."]);
  });

  it("pass news of edits and recordings on to the session", () => {
    const recording = { type: "recording", id: "r", state: "damaged" };
    FakeEvents.last.tell(
      { type: "entries", entries: [{ revision: 1 }] },
      { type: "job", job: job({}) },
      recording,
      { type: "entries", entries: [{ revision: 2 }, { revision: 3 }] }
    );
    expect(session.receive.mock.calls).toEqual([[[{ revision: 1 }, { revision: 2 }, { revision: 3 }]]]);
    expect(session.heardOfRecording).toHaveBeenCalledWith(recording);
    expect(jobs.list).toHaveLength(1);
  });
});
