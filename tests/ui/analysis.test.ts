import { beforeEach, describe, expect, it, vi } from "vitest";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import { Analysis } from "../../src/lib/ui/state/analysis.svelte";
import type { ResolvedClip } from "../../src/lib/core/session/lookup";
import { MIX } from "../../src/lib/core/session/owners";
import type { Subject } from "../../src/lib/ui/state/selection.svelte";
import type { Session } from "../../src/lib/ui/state/session.svelte";
import { clipOf, documentWith, RATE } from "../core/signals";

interface Asked {
  readonly id: number;
  readonly shape: { readonly gainDb: number };
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
const onBench = (clip: ResolvedClip): Subject => ({
  owner: { table: "clips", id: clip.id },
  owners: [{ table: "clips", id: clip.id }],
  name: clip.name,
  steps: clip.steps,
  clip
});
const state = {
  document: documentWith(clipOf("a", 48000)),
  shown: documentWith(clipOf("a", 48000)),
  projectId: "p",
  revision: 3,
  unsaved: 0,
  dragging: false
};
const clip = clipOf("a", 48000, { steps: [{ id: "g", effect: "gain", params: { gainDb: 3 } }] });
/** Id of the newest question. */
const asking = () => worker().asked.at(-1)?.id ?? NaN;
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
  for (const notice of notices.list) notices.dismiss([notice.id]);
  state.revision = 3;
  state.unsaved = 0;
  analysis = new Analysis(state as unknown as Session, { range: null });
});

describe("the analysis of the clip on the bench", () => {
  it("is asked for once a clip has been still for a moment, and gives the levels after each step", () => {
    analysis.want(onBench(clip));
    analysis.want(onBench({ ...clip, gainDb: 1 }));
    expect(analysis.progress).toBe(0);
    vi.runAllTimers();
    expect(worker().asked.map((q) => q.shape.gainDb)).toEqual([1]);
    worker().onmessage({ data: { type: "progress", id: asking(), share: 0.4 } });
    expect(analysis.progress).toBe(0.4);
    worker().onmessage({ data: result(asking(), "g") });
    expect(analysis.progress).toBe(1);
    expect(analysis.afterStep("g")?.integratedLufs).toBe(-27);
    expect(analysis.learntBy("g")).toEqual({ hum: 50 });
    expect(analysis.afterStep("none")).toBeUndefined();
  });

  it("is not asked for again by what changes no sound: a place, a track, a name", () => {
    analysis.want(onBench(clip));
    vi.runAllTimers();
    analysis.want(onBench({ ...clip, start: 99, track: "other", name: "Other" }));
    vi.runAllTimers();
    expect(worker().asked).toHaveLength(1);
  });

  it("takes no answer to a question that is no longer asked", () => {
    analysis.want(onBench(clip));
    vi.runAllTimers();
    analysis.want(onBench({ ...clip, gainDb: 5 }));
    vi.runAllTimers();
    worker().onmessage({ data: result(1, "g") });
    expect(analysis.stages).toEqual([]);
    worker().onmessage({ data: result(2, "g") });
    expect(analysis.stages).toHaveLength(2);
  });

  it("forgets the levels of another clip at once", () => {
    analysis.want(onBench(clip));
    vi.runAllTimers();
    worker().onmessage({ data: result(1, "g") });
    analysis.want(onBench(clipOf("b", 48000)));
    expect(analysis.stages).toEqual([]);
    worker().onmessage({ data: result(1, "g") });
    expect(analysis.stages).toEqual([]);
  });

  it("says why it failed, and measures no longer", () => {
    analysis.want(onBench(clip));
    vi.runAllTimers();
    worker().onmessage({ data: { type: "failed", id: asking(), message: "The audio is missing." } });
    expect(analysis.progress).toBe(1);
    expect(notices.list.map((n) => n.text)).toEqual([
      "The levels could not be measured: The audio is missing."
    ]);
    analysis.close();
    expect(worker().ended).toBe(true);
  });
});

describe("what is long, or has to be mixed first", () => {
  const lines = (...all: unknown[]) => all.map((line) => `${JSON.stringify(line)}\n`).join("");
  const measured = (integratedLufs: number | null) => ({ integratedLufs, truePeakDbtp: null });
  const answer = lines(
    {
      type: "progress",
      share: 0.5,
      soFar: { stages: [{ stepId: null, measurement: measured(-31) }], output: null, before: [], after: [] }
    },
    {
      type: "analysis",
      analysis: {
        stages: [
          { stepId: null, measurement: measured(-30) },
          { stepId: "g", measurement: measured(null) }
        ],
        output: measured(-27),
        before: [0.1],
        after: [0.2]
      }
    }
  );
  const asked: { url: string; body: unknown; signal: AbortSignal | null | undefined }[] = [];

  beforeEach(() => {
    asked.length = 0;
    vi.stubGlobal("fetch", (url: string, init: RequestInit) => {
      asked.push({ url, body: JSON.parse(String(init.body)), signal: init.signal });
      return Promise.resolve(new Response(answer));
    });
  });

  it("is measured on the server, which tells what it knows so far", async () => {
    const hour = clipOf("a", 3600 * RATE, { recordingFrames: 3600 * RATE, steps: [...clip.steps] });
    analysis.want(onBench(hour));
    vi.runAllTimers();
    vi.useRealTimers();
    await vi.waitFor(() => expect(analysis.progress).toBe(1));
    expect(worker().asked).toEqual([]);
    expect(asked[0]?.url).toBe("/api/projects/p/listen");
    expect(asked[0]?.body).toMatchObject({ kind: "part", part: { recordingId: "a", length: 3600 * RATE } });
    expect(analysis.start?.integratedLufs).toBe(-30);
    expect(analysis.afterStep("g")?.integratedLufs).toBe(-Infinity);
    expect(analysis.output?.integratedLufs).toBe(-27);
  });

  it("asks for the mix when all is saved, anew after each revision, and gives up what is outdated", () => {
    const mix: Subject = { owner: MIX, owners: [MIX], name: "the mix", steps: [], clip: undefined };
    state.unsaved = 1;
    analysis.want(mix);
    vi.runAllTimers();
    expect(asked).toEqual([]);
    state.unsaved = 0;
    analysis.want(mix);
    vi.runAllTimers();
    expect(asked.map((one) => one.body)).toMatchObject([{ kind: "bus", owner: MIX, from: 0, to: null }]);
    analysis.want(mix);
    vi.runAllTimers();
    expect(asked).toHaveLength(1);
    state.revision = 4;
    analysis.want(mix);
    vi.runAllTimers();
    expect(asked).toHaveLength(2);
    expect(asked.map((one) => one.signal?.aborted)).toEqual([true, false]);
  });
});
