// Candidates: which can be heard, what of the document that makes, and when all are equally loud.
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Measurement } from "../../src/lib/core/measure/meter";
import { findClip } from "../../src/lib/core/session/lookup";
import { newRecipeStep } from "../../src/lib/core/session/make";
import { MIX, type Owner } from "../../src/lib/core/session/owners";
import { notices } from "../../src/lib/ui/shared/notices.svelte";
import type { Analysis } from "../../src/lib/ui/state/analysis.svelte";
import { Hearing } from "../../src/lib/ui/state/hearing.svelte";
import type { Selection } from "../../src/lib/ui/state/selection.svelte";
import type { Session } from "../../src/lib/ui/state/session.svelte";
import { clipOf, documentWith } from "../core/signals";

const { workers } = vi.hoisted(() => ({
  workers: [] as { onmessage: (event: { data: unknown }) => void; asked: { id: number }[] }[]
}));
vi.mock("$lib/playback/analysis.worker?worker", () => ({
  default: class {
    onmessage = () => undefined;
    asked: unknown[] = [];
    constructor() {
      workers.push(this as never);
    }
    postMessage(message: unknown): void {
      this.asked.push(message);
    }
    terminate(): void {
      this.asked = [];
    }
  }
}));

const levels = (integratedLufs: number, truePeakDbtp: number) =>
  ({ integratedLufs, truePeakDbtp, noiseFloorDbfs: -70 }) as Measurement;
const doc = documentWith(
  clipOf("a", 48000, { gainDb: 2, steps: [{ id: "g", effect: "gain", params: { gainDb: 20 } }] }),
  clipOf("b", 48000, { start: 48000 })
);
const session = { document: doc, shown: doc, projectId: "p", revision: 1 } as unknown as Session;
let owner: Owner;
const selection = {
  range: null,
  get subject() {
    const clip = owner.table === "clips" ? findClip(doc, owner.id)?.clip : undefined;
    return { owner, owners: [owner], name: "it", steps: clip?.steps ?? [], clip };
  }
};
const analysis = { start: undefined as unknown, output: null as unknown };
const a: Owner = { table: "clips", id: "clip-a" };
const b: Owner = { table: "clips", id: "clip-b" };
const preset = (effect: string, params = {}) => ({
  id: effect,
  name: `With ${effect}`,
  notes: "",
  tags: [],
  factory: false,
  steps: [newRecipeStep(effect, params)],
  recordings: []
});
let hearing: Hearing;

beforeEach(() => {
  for (const notice of notices.list) notices.dismiss([notice.id]);
  workers.length = 0;
  owner = a;
  analysis.start = levels(-40, -30);
  analysis.output = levels(-18, -8);
  hearing = new Hearing(session, selection as unknown as Selection, analysis as unknown as Analysis);
  hearing.measure();
});

describe("candidates", () => {
  it("are before and after at first; after is the document itself", () => {
    expect(hearing.candidates.map((c) => c.name)).toEqual(["before", "after"]);
    expect(hearing.chosen).toBe(1);
    expect(hearing.heard).toEqual({ owners: [a], steps: null, gainDb: 0, difference: false });
  });

  it("are equally loud once another has been heard: before is raised to after, its own gain counted", () => {
    hearing.choose(0);
    // -40 and the clip's 2 dB behind the chain: 20 dB are missing.
    expect(hearing.heard).toMatchObject({ steps: [], gainDb: 20 });
    hearing.equalLoudness = false;
    expect(hearing.heard).toMatchObject({ steps: [], gainDb: 0 });
    hearing.toggle();
    expect(hearing.chosen).toBe(1);
  });

  it("go down to the one with the least headroom only while they are compared", () => {
    analysis.start = levels(-40, -15);
    // It can be raised by 12 dB only: after waits for it.
    expect(hearing.heard?.gainDb).toBe(0);
    hearing.choose(0);
    expect(hearing.heard?.gainDb).toBe(12);
    hearing.choose(1);
    expect(hearing.heard?.gainDb).toBe(-8);
  });

  it("are four at most: kept states and presets that are not applied; taken away again", () => {
    hearing.keep();
    hearing.add(preset("tone", { bassDb: 3 }));
    expect(hearing.candidates.map((c) => [c.name, c.kind])).toEqual([
      ["before", "before"],
      ["after", "after"],
      ["state 1", "version"],
      ["With tone", "preset"]
    ]);
    hearing.keep();
    expect(notices.list.map((n) => n.text)).toEqual(["4 can be compared at once: take one away first."]);
    hearing.choose(3);
    expect(hearing.heard?.steps?.map((s) => s.effect)).toEqual(["tone"]);
    hearing.remove(2);
    expect(hearing.candidates.map((c) => c.name)).toEqual(["before", "after", "With tone"]);
    expect(hearing.chosen).toBe(1);
    hearing.choose(7);
    expect(hearing.chosen).toBe(1);
  });

  it("are measured one after the other, and told how they differ from after", () => {
    hearing.keep();
    hearing.add(preset("tone", { bassDb: 3 }));
    const [worker] = workers;
    expect(worker.asked).toHaveLength(1);
    worker.onmessage({ data: { type: "result", id: worker.asked[0].id, output: levels(-20, -9) } });
    expect(worker.asked).toHaveLength(2);
    worker.onmessage({ data: { type: "result", id: worker.asked[1].id, output: levels(-12, -2) } });
    const [, , kept, other] = hearing.candidates;
    expect(hearing.differences(kept.levels)?.integratedLufs).toBe(-2);
    expect(hearing.differences(other.levels)?.truePeakDbtp).toBe(6);
    hearing.choose(3);
    expect(hearing.heard?.gainDb).toBe(-6);
  });

  it("belong to what is on the bench: another sound is heard as it is, and has its own", () => {
    hearing.keep();
    hearing.choose(0);
    hearing.difference = true;
    owner = b;
    hearing.measure();
    expect(hearing.candidates).toHaveLength(2);
    expect([hearing.chosen, hearing.difference]).toEqual([1, false]);
    owner = a;
    hearing.measure();
    expect(hearing.candidates).toHaveLength(3);
  });

  it("that cannot be where they would be heard, or lack a recording, are refused in a sentence", () => {
    owner = MIX;
    hearing.add(preset("normalize"));
    expect(notices.list[0].text).toContain("cannot be on the mix");
    owner = a;
    hearing.add(preset("convolution", { impulse: "gone" }));
    expect(notices.list.some((n) => n.text.includes("needs a recording that is not in this project"))).toBe(
      true
    );
    expect(hearing.candidates).toHaveLength(2);
  });
});
