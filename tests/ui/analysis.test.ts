import { beforeEach, describe, expect, it, vi } from "vitest";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import { Analysis } from "../../src/lib/ui/state/analysis.svelte";
import { clipOf } from "../core/signals";

interface Asked {
  readonly id: number;
  readonly clip: { readonly id: string; readonly gainDb: number };
}

const { workers } = vi.hoisted(() => ({
  workers: [] as { onmessage: (event: { data: unknown }) => void; asked: Asked[]; ended: boolean }[]
}));
vi.mock("$lib/playback/analysis.worker?worker", () => ({
  default: class {
    onmessage = () => undefined;
    asked: unknown[] = [];
    ended = false;
    constructor() {
      workers.push(this as never);
    }
    postMessage(message: unknown): void {
      this.asked.push(message);
    }
    terminate(): void {
      this.ended = true;
    }
  }
}));

let analysis: Analysis;
const worker = () => {
  const last = workers.at(-1);
  if (!last) throw new Error("No worker was made.");
  return last;
};
const clip = clipOf("a", 48000, { steps: [{ id: "g", effect: "gain", params: { gainDb: 3 } }] });
const result = (id: number, stepId: string) => ({
  type: "result",
  id,
  stages: [
    { stepId: null, measurement: { integratedLufs: -30 } },
    { stepId, measurement: { integratedLufs: -27 }, learnt: { hum: 50 } }
  ],
  output: { integratedLufs: -27 },
  before: new Float32Array(2),
  after: new Float32Array(2)
});

beforeEach(() => {
  vi.useFakeTimers();
  for (const notice of notices.list) notices.dismiss(notice.id);
  analysis = new Analysis(48000);
});

describe("the analysis of the clip on the bench", () => {
  it("is asked for once a clip has been still for a moment, and gives the levels after each step", () => {
    analysis.want(clip);
    analysis.want({ ...clip, gainDb: 1 });
    expect(analysis.progress).toBe(0);
    vi.runAllTimers();
    expect(worker().asked.map((q) => q.clip.gainDb)).toEqual([1]);
    worker().onmessage({ data: { type: "progress", id: 1, share: 0.4 } });
    expect(analysis.progress).toBe(0.4);
    worker().onmessage({ data: result(1, "g") });
    expect(analysis.progress).toBe(1);
    expect(analysis.afterStep("g")?.integratedLufs).toBe(-27);
    expect(analysis.learntBy("g")).toEqual({ hum: 50 });
    expect(analysis.afterStep("none")).toBeUndefined();
  });

  it("is not asked for again by what changes no sound: a place, a track, a name", () => {
    analysis.want(clip);
    vi.runAllTimers();
    analysis.want({ ...clip, start: 99, track: "other", name: "Other" });
    vi.runAllTimers();
    expect(worker().asked).toHaveLength(1);
  });

  it("takes no answer to a question that is no longer asked", () => {
    analysis.want(clip);
    vi.runAllTimers();
    analysis.want({ ...clip, gainDb: 5 });
    vi.runAllTimers();
    worker().onmessage({ data: result(1, "g") });
    expect(analysis.stages).toEqual([]);
    worker().onmessage({ data: result(2, "g") });
    expect(analysis.stages).toHaveLength(2);
  });

  it("forgets the levels of another clip at once", () => {
    analysis.want(clip);
    vi.runAllTimers();
    worker().onmessage({ data: result(1, "g") });
    analysis.want(clipOf("b", 48000));
    expect(analysis.stages).toEqual([]);
    expect(analysis.clipId).toBe("clip-b");
    analysis.want(undefined);
    expect(analysis.clipId).toBeNull();
    expect(analysis.progress).toBe(1);
  });

  it("says why it failed, and measures no longer", () => {
    analysis.want(clip);
    vi.runAllTimers();
    worker().onmessage({ data: { type: "failed", id: 1, message: "The audio is missing." } });
    expect(analysis.progress).toBe(1);
    expect(notices.list.map((n) => n.text)).toEqual([
      "The levels could not be measured: The audio is missing."
    ]);
    analysis.close();
    expect(worker().ended).toBe(true);
  });
});
