// The history of a clip: what made its sound, from the import on.
import { describe, expect, it } from "vitest";
import { acrossRender, historyOf, recomputed, withoutProcess } from "../../src/lib/core/session/processes";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newStep,
  newTrack
} from "../../src/lib/core/session/make";
import type { Recording } from "../../src/lib/core/session/schema";
import { RATE } from "./signals";

const FRAMES = RATE;
const recipe = (gainDb: number) => ({ effect: "gain", on: true, params: { gainDb }, span: null });

/** Recordings r0 (import), r1 … rn, each rendered from the one before by so many steps; a clip shows the last. */
function descended(generations: number, steps: number) {
  const recordings: Recording[] = [];
  for (let i = 0; i <= generations; i++)
    recordings.push(
      newRecording(
        `r${i}`,
        {
          name: `Take ${i}`,
          media: null,
          frames: FRAMES,
          channels: 2,
          sampleRate: RATE,
          kind: i ? "render" : "import"
        },
        i === 0
          ? null
          : {
              text: `Take ${i - 1}: Gain`,
              source: `r${i - 1}`,
              window: { offset: 0, length: FRAMES },
              steps: Array.from({ length: steps }, (_, n) => recipe(n / 10)),
              ...(i === 1 ? { recordingSteps: [recipe(-1)] } : {})
            }
      )
    );
  return documentOf(newProject("History", RATE), {
    tracks: [newTrack("t", "Track", 1)],
    clips: [newClip("k", "t", { id: `r${generations}`, name: "k", frames: FRAMES }, 0, { chain: "c" })],
    chains: [
      newChain("c", [newStep("own", "limiter")]),
      newChain("cr", [newStep("rec", "gain", { gainDb: 2 })])
    ],
    recordings: recordings.map((one, i) => (i === generations ? { ...one, chain: "cr" } : one))
  });
}

function clipOf(doc: ReturnType<typeof descended>) {
  const clip = doc.get("clips", "k");
  if (!clip) throw new Error("no clip");
  return clip;
}

describe("the history of a clip", () => {
  it("tells all that made its sound, in order, from the import to its own chain", () => {
    const doc = descended(2, 3);
    const { stages, recording, chains, before } = historyOf(doc, clipOf(doc));
    expect(stages.map(({ name, steps, below, madeId }) => [name, steps.length, below, madeId])).toEqual([
      ["Take 0", 4, 1, "r1"],
      ["Take 1", 3, 0, "r2"]
    ]);
    expect(recording?.name).toBe("Take 2");
    expect(chains.map(({ owner, steps }) => [owner.table, steps.map((step) => step.id)])).toEqual([
      ["recordings", ["rec"]],
      ["clips", ["own"]]
    ]);
    expect(before).toBeUndefined();
  });

  it("says what is computed again, from the first change on, and what cannot be", () => {
    const doc = descended(3, 2);
    const history = historyOf(doc, clipOf(doc));
    const again = recomputed(history, [{ madeId: "r2", steps: [recipe(9)] }]);
    expect(
      typeof again === "string" ? again : again.map(({ madeId, steps }) => [madeId, steps.length])
    ).toEqual([
      ["r2", 1],
      ["r3", 2]
    ]);
    expect(recomputed(history, [])).toContain("nothing to compute again");
    const first = doc.get("recordings", "r0") ?? null;
    const gone = doc.with([{ table: "recordings", id: "r0", before: first, after: null }]);
    const broken = historyOf(gone, clipOf(gone));
    expect(broken.stages[0]?.fault).toBe(
      'What "Take 1" was made from is no longer in the project: it cannot be computed again.'
    );
    expect(recomputed(broken, [{ madeId: "r1", steps: [] }])).toContain("cannot be computed again");
    expect(typeof recomputed(broken, [{ madeId: "r2", steps: [] }])).toBe("object");
  });

  it("ends where recordings name each other in a ring, or were made of several clips", () => {
    const doc = descended(1, 1);
    const made = doc.get("recordings", "r1");
    const source = doc.get("recordings", "r0");
    if (!made?.provenance || !source) throw new Error("no recording");
    const ring = { ...source, kind: "render" as const, provenance: { ...made.provenance, source: "r1" } };
    const ringed = doc.with([{ table: "recordings", id: "r0", before: source, after: ring }]);
    expect(historyOf(ringed, clipOf(ringed)).stages).toHaveLength(2);
    const together = {
      ...ring,
      provenance: { text: "Together: a, b", source: null, window: null, steps: null }
    };
    const mixed = doc.with([{ table: "recordings", id: "r0", before: source, after: together }]);
    expect(historyOf(mixed, clipOf(mixed))).toMatchObject({
      before: "Together: a, b",
      stages: [{ name: "Take 0" }]
    });
  });

  it("takes a process across a render, with its stretch where it lies there, and its place on the recording", () => {
    const part = (from: number, to: number) => ({ ...recipe(3), span: { from, to } });
    const early = { steps: [recipe(1), part(100, 300)], below: 1, origin: 200 };
    const late = { steps: [recipe(5), recipe(6)], below: 1 };
    expect(acrossRender(early, late, 1)).toEqual([
      { steps: [recipe(1)], below: 1 },
      { steps: [part(0, 100), recipe(5), recipe(6)], below: 2 }
    ]);
    const back = acrossRender({ ...early, steps: [] }, { steps: [part(0, 100)], below: 0 }, -1);
    expect(back).toEqual([
      { steps: [part(200, 300)], below: 1 },
      { steps: [], below: 0 }
    ]);
    // Of what lies before the render there is nothing in it.
    expect(acrossRender({ ...early, steps: [part(10, 200)] }, late, 1)).toBeUndefined();
    expect(acrossRender({ ...early, steps: [] }, late, 1)).toBeUndefined();
    expect(withoutProcess({ steps: [recipe(1), recipe(2), recipe(3)], below: 2 }, 0)).toEqual({
      steps: [recipe(2), recipe(3)],
      below: 1
    });
    const doc = descended(3, 2);
    const again = recomputed(historyOf(doc, clipOf(doc)), [{ madeId: "r2", steps: [recipe(9)], below: 1 }]);
    expect(typeof again === "string" ? again : again[0]?.below).toBe(1);
  });

  it("of a thousand processes is told whole", () => {
    const doc = descended(20, 50);
    const { stages } = historyOf(doc, clipOf(doc));
    expect(stages.reduce((sum, stage) => sum + stage.steps.length, 0)).toBe(1001);
  });
});
