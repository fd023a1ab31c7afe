// A change of any chain while it plays: within 20 ms, without a click, without a gap.
import { describe, expect, it } from "vitest";
import { effects } from "../../src/lib/core/effects/registry";
import { applyCommand } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { newStep } from "../../src/lib/core/session/make";
import { ownerFault } from "../../src/lib/core/session/owners";
import { ArraySource, EVERY_EFFECT, mixed, sine, TestMix } from "./signals";
import { FRAMES, type Chains, project, OWNERS } from "./owned";

describe("a change while it plays", () => {
  const tone = sine(200, -12, FRAMES);
  const where = new ArraySource({ a: [tone, tone] });
  const steepest = (x: Float32Array) =>
    x.reduce((a, v, i) => (i === 0 ? 0 : Math.max(a, Math.abs(v - (x[i - 1] ?? 0)))), 0);
  const from = 40 * 512;
  const length = 24 * 512;

  type Params = Record<string, number | string | boolean>;

  /** Every value at the ends of its range, and every choice, one at a time. */
  function valuesOf(id: string): [string, Params][] {
    const effect = effects.find((e) => e.id === id);
    const out: [string, Params][] = [];
    for (const param of effect?.params ?? []) {
      const values =
        param.kind === "number"
          ? [param.min, param.max]
          : param.kind === "choice"
            ? param.choices.map((c) => c.value)
            : param.kind === "switch"
              ? [!param.default]
              : [];
      for (const value of values) out.push([`${param.id} ${value}`, { [param.id]: value }]);
    }
    return out;
  }

  const streaming = (name: keyof Chains, id: string) =>
    name === "clip" || name === "recording" ? true : ownerFault("tracks", newStep("x", id)) === undefined;

  it.each(
    OWNERS.flatMap(([name, owner]) =>
      effects.filter((e) => streaming(name, e.id)).map((e) => [name, e.id, owner] as const)
    )
  )(
    "on the %s of any parameter of %s goes over within 20 ms without a click",
    (name, id, owner) => {
      const base = EVERY_EFFECT.find((s) => s.effect === id)?.params ?? {};
      const doc = project({ [name]: [newStep("x", id, base)] });
      const steady = (d: Document) => mixed(d, where, from, length)[0];
      const old = steady(doc);
      for (const [what, params] of valuesOf(id)) {
        let next: Document;
        try {
          next = applyCommand(doc, { type: "step.set", owner, stepId: "x", params }).document;
        } catch (error) {
          expect(String(error)).toContain("has to hear all of its sound first");
          continue;
        }
        const mix = new TestMix(doc, where, from);
        mix.update(next);
        const [out] = mix.read(length);
        mix.release();
        const fresh = steady(next);
        const allowed = 1.05 * Math.max(steepest(old), steepest(fresh)) + 0.002;
        expect(steepest(out), what).toBeLessThan(allowed);
        // 20 ms, and what a bus has read ahead before it knew.
        for (let i = 960 + 9000; i < length; i += 50)
          expect(Math.abs((out[i] ?? 0) - (fresh[i] ?? 0)), `${what} at ${i}`).toBeLessThan(2e-4);
      }
    },
    120000
  );

  it.each(OWNERS)("of the first and the last step on the %s makes no gap", (name) => {
    const bare = project({});
    const treated = project({ [name]: [newStep("l", "limiter", { gainDb: 6 })] });
    for (const [a, b] of [
      [bare, treated],
      [treated, bare]
    ] as const) {
      const mix = new TestMix(a, where, from);
      mix.read(5000);
      mix.update(b);
      const [out] = mix.read(length);
      const [fresh] = mixed(b, where, from + 5000, length);
      const [before] = mixed(a, where, from + 5000, length);
      expect(steepest(out)).toBeLessThan(1.05 * Math.max(steepest(fresh), steepest(before)) + 0.002);
      for (let i = 3000; i < length; i++)
        expect(Math.abs((out[i] ?? 0) - (fresh[i] ?? 0))).toBeLessThan(1e-4);
      mix.release();
    }
  });
});
