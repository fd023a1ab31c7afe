import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { effects } from "../../src/lib/core/effects/registry";
import { parseChainFile } from "../../src/lib/core/session/chainFile";

const file = (steps: unknown, more: object = {}) =>
  JSON.stringify({ wring: "chain/1", name: "A", steps, ...more });

describe("chain files", () => {
  it("have defaults for what is left out", () => {
    expect(parseChainFile('{"wring":"chain/1","steps":[{"effect":"gain"}]}')).toEqual({
      wring: "chain/1",
      name: "",
      steps: [{ effect: "gain", on: true, params: {} }]
    });
  });

  it("may carry spans, which must end after they begin", () => {
    const span = { from: 100, to: 200, edgeMs: 20 };
    expect(parseChainFile(file([{ effect: "gain", span }])).steps[0]?.span).toEqual(span);
    expect(() => parseChainFile(file([{ effect: "gain", span: { from: 200, to: 200 } }]))).toThrow(
      "steps[0].span: must end after it begins"
    );
  });

  it("carry every effect with any values that it allows", () => {
    for (const effect of effects) {
      const steps = fc.record(
        Object.fromEntries(
          effect.params.map((p) => [
            p.id,
            p.kind === "number"
              ? fc.double({ min: p.min, max: p.max, noNaN: true })
              : p.kind === "choice"
                ? fc.constantFrom(...p.choices.map((c) => c.value))
                : p.kind === "switch"
                  ? fc.boolean()
                  : fc.constant("")
          ])
        )
      );
      fc.assert(
        fc.property(steps, (params) => {
          const read = parseChainFile(file([{ effect: effect.id, params }])).steps[0].params;
          expect(read).toEqual(JSON.parse(JSON.stringify(params)));
        }),
        { numRuns: 5 }
      );
    }
  });

  it.each([
    ["not JSON", "steps", "is not JSON"],
    ["another format", '{"wring":"chain/2","name":"","steps":[]}', "wring: "],
    ["no steps", '{"wring":"chain/1","name":""}', "steps: "],
    ["a step that is none", file([3]), "steps[0]: "],
    [
      "a choice that is none",
      file([{ effect: "fade", params: { inCurve: "wild" } }]),
      "steps[0].params.inCurve: must be one of"
    ],
    [
      "text for a number",
      file([{ effect: "gain", params: { gainDb: "3" } }]),
      "steps[0].params.gainDb: must be a number"
    ],
    [
      "a number for a switch",
      file([{ effect: "limiter", params: { truePeak: 1 } }]),
      "steps[0].params.truePeak: must be true or false"
    ],
    [
      "a false profile",
      file([{ effect: "noise-reduction", params: { profile: "x" } }]),
      "steps[0].params.profile: must be a noise profile"
    ],
    ["too many steps", file(Array.from({ length: 65 }, () => ({ effect: "gain" }))), "steps: "]
  ])("with %s are refused with the place of the fault", (_, text, fault) => {
    expect(() => parseChainFile(text)).toThrow(fault);
  });
});
