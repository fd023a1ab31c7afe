// Chains of several clips as one, treatments given to others and taken off, steps that this version does not know.
import { describe, expect, it } from "vitest";
import { keptParams } from "../../src/lib/core/effects/keptParams";
import { completeParams, effectOf, effects } from "../../src/lib/core/effects/registry";
import { Plan } from "../../src/lib/core/render/graph";
import { applyCommand, asOne, commandSchema, type Command } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { stepsOfOwner, type Owner } from "../../src/lib/core/session/owners";
import {
  rowsTogether,
  mixedParams,
  rowOn,
  spansDiffer,
  stepBefore
} from "../../src/lib/core/session/together";
import { pasteCommands, removeCommands, treatmentOf } from "../../src/lib/core/session/treatment";
import { documentFault } from "../../src/lib/core/session/validate";
import { ArraySource, clipOf, documentWith, fade, mixed, noise, RATE, same } from "./signals";

const owner = (id: string): Owner => ({ table: "clips", id: `clip-${id}` });
const [A, B, C] = [owner("a"), owner("b"), owner("c")];
const gain = (id: string, gainDb: number, on = true) => ({ id, effect: "gain", params: { gainDb }, on });
const limiter = (id: string) => ({ id, effect: "limiter", params: { ceilingDb: -2 } });
const all = { gain: true, fades: true, line: true };

let count = 0;
const newId = () => `n${++count}`;
const run = (doc: Document, command: Command | undefined): Document => {
  if (!command) throw new Error("There is nothing to do.");
  expect(commandSchema.safeParse(command).success).toBe(true);
  return applyCommand(doc, command).document;
};
const recipe = (doc: Document, of: Owner) => stepsOfOwner(doc, of).map(({ id: _id, ...step }) => step);

const doc = documentWith(
  clipOf("a", RATE, { steps: [gain("a1", 3), limiter("a2"), gain("a3", -1)] }),
  clipOf("b", RATE, {
    steps: [gain("b1", 6, false), { id: "b2", effect: "tone", params: {} }, gain("b3", -1)],
    start: RATE
  }),
  clipOf("c", RATE, { start: 2 * RATE })
);

describe("chains of several clips", () => {
  const rows = rowsTogether(doc, [A, B, C]);

  it("are rows of the first, second … step of each effect, then what only others have", () => {
    expect(rows.map((row) => [row.step.id, row.places.map((p) => p.step.id), row.missing])).toEqual([
      ["a1", ["a1", "b1"], 1],
      ["a2", ["a2"], 2],
      ["a3", ["a3", "b3"], 1],
      ["b2", ["b2"], 2]
    ]);
  });

  it("belong together as they stand in order: a step that was just added at the end of all is one row, whatever came before", () => {
    const part = { from: 0, to: RATE / 2 };
    const inPart = (id: string, gainDb = 0) => ({ ...gain(id, gainDb), span: part });
    const added = (id: string) => inPart(id);
    const several = documentWith(
      clipOf("a", RATE, { steps: [gain("a1", 28), { id: "a2", effect: "tone", params: {} }, added("a3")] }),
      clipOf("b", RATE, { start: RATE, steps: [{ id: "b1", effect: "tone", params: {} }, added("b2")] }),
      clipOf("c", RATE, { start: 2 * RATE, steps: [added("c1")] })
    );
    const of = (...owners: Owner[]) =>
      rowsTogether(several, owners).map((row) => row.places.map((p) => p.step.id).join(" "));
    expect(of(A, B, C)).toEqual(["a1", "a2 b1", "a3 b2 c1"]);
    expect(of(C, A)).toEqual(["c1 a3", "a1", "a2"]);
    // A part goes with a part, whatever its settings.
    const parts = documentWith(
      clipOf("a", RATE, { steps: [gain("a1", 0), inPart("a2", 5)] }),
      clipOf("b", RATE, { start: RATE, steps: [added("b1")] })
    );
    expect(rowsTogether(parts, [A, B]).map((row) => row.places.map((p) => p.step.id).join(" "))).toEqual([
      "a1",
      "a2 b1"
    ]);
    // Without parts equal settings tell. What stands in another order in one of them is one row all the same.
    const plain = documentWith(
      clipOf("a", RATE, { steps: [gain("a1", 6), limiter("a2"), gain("a3", 0)] }),
      clipOf("b", RATE, { start: RATE, steps: [gain("b1", 0)] }),
      clipOf("c", RATE, { start: 2 * RATE, steps: [limiter("c1"), gain("c2", 2)] })
    );
    const rows = (...owners: Owner[]) =>
      rowsTogether(plain, owners).map((row) => row.places.map((p) => p.step.id).join(" "));
    expect(rows(A, B)).toEqual(["a1", "a2", "a3 b1"]);
    expect(rows(A, C)).toEqual(["a1", "a2 c1", "a3 c2"]);
    expect(rows(C, B)).toEqual(["c1", "c2 b1"]);
    const turned = documentWith(
      clipOf("a", RATE, { steps: [gain("a1", 6), limiter("a2")] }),
      clipOf("b", RATE, { start: RATE, steps: [limiter("b1"), gain("b2", 6)] })
    );
    expect(rowsTogether(turned, [A, B]).map((row) => row.places.map((p) => p.step.id).join(" "))).toEqual([
      "a1 b2",
      "a2 b1"
    ]);
  });

  it("tell where they differ", () => {
    expect(rows.map((row) => [...mixedParams(row)])).toEqual([["gainDb"], [], [], []]);
    expect(rows.map(rowOn)).toEqual(["mixed", true, true, true]);
    expect(rows.map(spansDiffer)).toEqual([false, false, false, false]);
  });

  it("say before which step of a chain one must stand that comes before a row", () => {
    expect(stepBefore(rows, 1, A)).toBe("a2");
    // The second clip has no limiter: the next row that it has.
    expect(stepBefore(rows, 1, B)).toBe("b3");
    expect(stepBefore(rows, 0, C)).toBeNull();
  });

  it("that are one chain are one place", () => {
    const linked = run(doc, { type: "chain.link", from: A.id, clipIds: [B.id] });
    const rows = rowsTogether(linked, [A, B]);
    expect(rows.map((row) => row.places.length)).toEqual([1, 1, 1]);
    expect(rows.every((row) => row.missing === 0)).toBe(true);
  });
});

describe("a treatment given to others", () => {
  const treated = run(doc, {
    type: "compound",
    name: "shape",
    commands: [
      { type: "clip.set", clipIds: [A.id], gainDb: 4 },
      { type: "clip.fade", clipIds: [A.id], edge: "in", fade: fade(1000, "smooth") },
      { type: "step.set", owner: A, stepId: "a3", span: { from: 2000, to: 5000 } },
      {
        type: "clip.set",
        clipIds: [A.id],
        line: {
          join: "straight",
          points: [
            { at: 100, value: -6 },
            { at: 900, value: 0 }
          ]
        }
      },
      // The other shows its recording from elsewhere on.
      { type: "clip.trim", clipId: C.id, start: 2 * RATE + 300, offset: 300, length: RATE - 300 }
    ]
  });
  const treatment = treatmentOf(treated, A, RATE);
  const paste = (
    parts: Parameters<typeof pasteCommands>[3]["parts"],
    mode: "replace" | "append",
    owners = [B, C]
  ) =>
    run(
      treated,
      asOne(pasteCommands(treated, treatment, owners, { parts, mode, sampleRate: RATE, newId }), treated)
    );

  it("is the same as one that was built by hand, and sounds the same", () => {
    const pasted = paste({ steps: [0, 1], ...all, line: false, fades: false }, "replace", [C]);
    const byHand = run(treated, {
      type: "compound",
      name: "by hand",
      commands: [
        {
          type: "step.add",
          owner: C,
          chainId: "hand",
          before: null,
          step: { id: "h1", effect: "gain", on: true, params: { gainDb: 3 }, span: null }
        },
        {
          type: "step.add",
          owner: C,
          chainId: "hand",
          before: null,
          step: { id: "h2", effect: "limiter", on: true, params: { ceilingDb: -2 }, span: null }
        },
        { type: "clip.set", clipIds: [C.id], gainDb: 4 }
      ]
    });
    expect(recipe(pasted, C)).toEqual(recipe(byHand, C));
    const x = noise(2 * RATE, 0.8);
    const source = new ArraySource({ a: [x, x], b: [x, x], c: [x, x] });
    const [one, other] = [pasted, byHand].map((d) => mixed(d, source, 0, 3 * RATE));
    expect(same(one[0], other[0]) && same(one[1], other[1])).toBe(true);
    expect(Math.max(...one[0].subarray(2 * RATE + 300))).toBeGreaterThan(0.5);
  });

  it("comes in place of the steps that are there, or behind them; chosen steps alone", () => {
    const none = { gain: false, fades: false, line: false };
    expect(recipe(paste({ steps: [1], ...none }, "replace"), B).map((s) => s.effect)).toEqual(["limiter"]);
    expect(recipe(paste({ steps: [1], ...none }, "append"), B).map((s) => s.effect)).toEqual([
      "gain",
      "tone",
      "gain",
      "limiter"
    ]);
    expect(paste({ steps: [1], ...none }, "replace").get("clips", B.id)?.gainDb).toBe(0);
  });

  it("counts its spans and its line from where the sound of each clip begins", () => {
    const pasted = paste({ steps: [2], ...all }, "replace");
    expect(stepsOfOwner(pasted, C)[0]?.span).toMatchObject({ from: 2300, to: 5300 });
    expect(pasted.get("clips", C.id)?.line?.points.map((p) => p.at)).toEqual([400, 1200]);
    expect(pasted.get("clips", C.id)?.fadeIn).toEqual(fade(1000, "smooth"));
    expect(pasted.get("clips", B.id)).toMatchObject({ gainDb: 4, fadeIn: { length: 1000 } });
  });

  it("brings the recordings that its steps ask for into another project, at its rate", () => {
    const room = {
      ...treatment,
      steps: [{ effect: "convolution", on: true, params: { impulse: "r" }, span: null }]
    };
    const impulse = effectOf("convolution").params.find((p) => p.kind === "recording");
    const [step] = room.steps;
    step.params = { [impulse?.id ?? ""]: "room" } as never;
    const known = treated.get("recordings", "a");
    if (!known) throw new Error("There is no recording.");
    const there = { ...room, recordings: [{ ...known, id: "room", frames: 96000 }], sampleRate: 96000 };
    const parts = { steps: [0], gain: false, fades: false, line: false };
    const commands = pasteCommands(doc, there, [C], { parts, mode: "replace", sampleRate: RATE, newId });
    expect(commands[0]).toMatchObject({ type: "recording.add", recording: { id: "room", frames: 48000 } });
    expect(stepsOfOwner(run(doc, asOne(commands, doc)), C)).toHaveLength(1);
  });

  it("is taken off again: all of it gives back what was there before, chosen steps leave the others", () => {
    const pasted = paste({ steps: [0, 1, 2], ...all }, "replace", [C]);
    const bare = run(
      pasted,
      asOne(
        removeCommands(pasted, [C], () => true, all, newId),
        pasted
      )
    );
    expect(bare.get("clips", C.id)).toMatchObject({
      gainDb: 0,
      line: null,
      chain: null,
      fadeIn: { length: 0 }
    });
    const some = removeCommands(
      pasted,
      [A, C],
      (_, step) => step.effect === "gain",
      { gain: false, fades: false, line: false },
      newId
    );
    const left = run(pasted, asOne(some, pasted));
    for (const one of [A, C]) expect(recipe(left, one).map((s) => s.effect)).toEqual(["limiter"]);
    expect(left.get("clips", C.id)?.gainDb).toBe(4);
    expect(removeCommands(bare, [C], () => true, all, newId)).toEqual([]);
  });
});

describe("a step that this version does not know", () => {
  const strange = { id: "s", effect: "gravity", on: true, params: { pull: 3 } };

  it("is kept, lets the sound through, and changes nothing of what is known", () => {
    const x = noise(RATE, 0.5);
    const source = new ArraySource({ a: [x, x] });
    const without = documentWith(clipOf("a", RATE, { steps: [gain("g", -6)] }));
    const withIt = documentWith(clipOf("a", RATE, { steps: [strange, gain("g", -6)] }));
    expect(documentFault(withIt)).toBeUndefined();
    expect(stepsOfOwner(withIt, A)[0]?.params).toEqual({ pull: 3 });
    const [one, other] = [without, withIt].map((d) => mixed(d, source, 0, RATE)[0]);
    expect(same(one, other)).toBe(true);
    expect(new Plan(withIt).end).toBe(RATE);
    expect(effectOf("gravity").help).toContain('no effect "gravity"');
  });

  it("can be switched, moved and removed", () => {
    const withIt = documentWith(clipOf("a", RATE, { steps: [strange, gain("g", -6)] }));
    const off = run(withIt, { type: "step.set", owner: A, stepId: "s", on: false });
    const moved = run(off, { type: "step.move", owner: A, stepId: "s", before: null });
    expect(stepsOfOwner(moved, A).map((s) => [s.effect, s.on])).toEqual([
      ["gain", true],
      ["gravity", false]
    ]);
  });
});

describe("an effect in the place of another", () => {
  it("keeps what both have by the same name and unit, within its limits", () => {
    const [compressor, expander] = [effectOf("compressor"), effectOf("expander")];
    const kept = keptParams(
      compressor,
      completeParams(compressor, { thresholdDb: -35, attackMs: 7 }),
      expander
    );
    expect(kept).toMatchObject({ thresholdDb: -35, attackMs: 7 });
    expect(kept).not.toHaveProperty("makeUpDb");
  });

  it("has only settings that it allows, whatever it replaces", () => {
    for (const from of effects)
      for (const to of effects) {
        const kept = keptParams(from, completeParams(from, {}), to);
        const step = { id: "s", effect: to.id, on: true, params: kept, span: null };
        const command = { type: "step.add", owner: A, chainId: "k", before: null, step };
        expect(commandSchema.safeParse(command).success).toBe(true);
      }
  });
});

describe("a chain", () => {
  const x = noise(RATE, 0.6);
  const source = new ArraySource({ a: [x, x] });
  const heardWith = (
    ...steps: { id: string; effect: string; params: Record<string, number>; on?: boolean }[]
  ) => mixed(documentWith(clipOf("a", RATE, { steps })), source, 0, RATE)[0];
  const delay = { id: "d", effect: "delay", params: { timeMs: 100, mixPercent: 50 } };
  const limit = { id: "l", effect: "limiter", params: { ceilingDb: -12 } };

  it("is another one in another order", () => {
    expect(same(heardWith(delay, limit), heardWith(limit, delay))).toBe(false);
  });

  it("sounds without a step exactly as with that step switched off, wherever it stands", () => {
    const off = { ...delay, on: false };
    const bare = heardWith(limit);
    expect(same(heardWith(off, limit), bare)).toBe(true);
    expect(same(heardWith(limit, off), bare)).toBe(true);
  });
});
