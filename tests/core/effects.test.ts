// What holds for every effect, made from its description: a new effect is tested without touching this file.
import { describe, expect, it } from "vitest";
import { completeParams, effects, paramsFault, searchEffects } from "../../src/lib/core/effects/registry";
import type { EffectDescription, Params, ParamValue } from "../../src/lib/core/effects/description";
import { BLOCK } from "../../src/lib/core/audio/block";
import {
  ArraySource,
  clipOf,
  documentWith,
  EVERY_EFFECT,
  mixed,
  noise,
  RATE,
  same,
  sine,
  step,
  TestMix,
  throughChain
} from "./signals";

/** Settings at the edges of every parameter: all at min, all at max, last choices, switches on. */
function extremes(effect: EffectDescription): Params[] {
  const pick = (high: boolean): Params =>
    Object.fromEntries(
      effect.params.map((p): [string, ParamValue] => {
        if (p.kind === "number") return [p.id, high ? p.max : p.min];
        if (p.kind === "choice") return [p.id, p.choices[high ? p.choices.length - 1 : 0].value];
        if (p.kind === "switch") return [p.id, true];
        return [p.id, p.default];
      })
    );
  return [pick(false), pick(true)];
}

const everySetting = effects.flatMap((effect) =>
  [{}, ...extremes(effect), ...effect.presets.map((p) => p.params)].map(
    (params, i): [string, EffectDescription, Params] => [`${effect.name} ${i}`, effect, params]
  )
);

describe("every effect", () => {
  it.each(everySetting)("%s: gives finite samples, the same for any block size", (_, effect, params) => {
    const wave = Float32Array.from([...noise(3000, 1), ...new Float32Array(2000), ...sine(50, 0, 3000)]);
    const other = noise(wave.length, 0.7, 9);
    const [l1, r1] = throughChain([step(effect.id, params)], wave, other, 48000, 512);
    expect(l1.every(Number.isFinite) && r1.every(Number.isFinite)).toBe(true);
    for (const size of [1, 511, 8192]) {
      const [l2, r2] = throughChain([step(effect.id, params)], wave, other, 48000, size);
      expect(same(l2, l1) && same(r2, r1), `blocks of ${size}`).toBe(true);
    }
  });

  it.each(
    effects.flatMap((effect) => [8000, 44100, 192000].map((rate) => [effect.name, rate, effect] as const))
  )("%s runs at %i Hz", (_, rate, effect) => {
    const [out] = throughChain([step(effect.id)], noise(rate / 4, 0.4), undefined, rate);
    expect(out.every(Number.isFinite)).toBe(true);
    expect(effect.latency(rate)).toBeGreaterThanOrEqual(0);
    expect(effect.settle(completeParams(effect, {}), rate)).toBeGreaterThanOrEqual(0);
  });

  it.each(effects.map((effect) => [effect.name, effect] as const))(
    "%s changes any parameter while a sine plays without a click, and ends at the new sound",
    (_, effect) => {
      const tone = sine(220, -12, RATE * 2);
      const source = new ArraySource({ tone: [tone, tone.map((x) => x * 0.8)] });
      const doc = (params: Params) =>
        documentWith(
          clipOf("tone", RATE * 2, {
            steps: [{ id: "s", effect: effect.id, on: true, params: { ...params } }]
          })
        );
      const steepest = (x: Float32Array) =>
        x.reduce((a, v, i) => (i === 0 ? 0 : Math.max(a, Math.abs(v - x[i - 1]))), 0);
      const from = 40 * BLOCK;
      const length = 8 * BLOCK;
      const steady = (params: Params) => {
        return mixed(doc(params), source, from, length)[0];
      };
      const [low, high] = extremes(effect);
      const old = steady({});
      for (const param of effect.params) {
        if (param.kind === "recording" || param.kind === "data") continue;
        for (const value of [low[param.id], high[param.id]]) {
          const change = { [param.id]: param.kind === "switch" ? !param.default : value };
          const mix = new TestMix(doc({}), source, from);
          mix.update(doc(change));
          const [out] = mix.read(length);
          mix.release();
          const fresh = steady(change);
          const allowed = 1.05 * Math.max(steepest(old), steepest(fresh)) + 0.002;
          expect(steepest(out), `${param.id} ${value}`).toBeLessThan(allowed);
          for (let i = 2000; i < length; i += 50) expect(Math.abs(out[i] - fresh[i])).toBeLessThan(1e-4);
        }
      }
    }
  );

  it("every effect together runs at 8 kHz and 192 kHz", () => {
    const rates = [8000, 192000];
    for (const rate of rates) {
      const [out] = throughChain(EVERY_EFFECT, noise(rate / 4, 0.4), undefined, rate);
      expect(out.every(Number.isFinite)).toBe(true);
      expect(out.some((x) => x !== 0)).toBe(true);
    }
  });

  it("turns silence into silence", () => {
    const [out] = throughChain(EVERY_EFFECT, new Float32Array(5000));
    expect(out.every((x) => x === 0)).toBe(true);
  });

  it("has presets, defaults and help that its own rules allow", () => {
    for (const effect of effects) {
      for (const preset of effect.presets) expect(paramsFault(effect, preset.params)).toBeUndefined();
      for (const p of effect.params) {
        expect(paramsFault(effect, { [p.id]: p.default })).toBeUndefined();
        expect(p.help.endsWith("."), `${effect.id} ${p.id}`).toBe(true);
      }
    }
  });

  it("refuses what a parameter does not allow, naming it", () => {
    const [gain] = effects;
    expect(paramsFault(gain, { gainDb: 99 })).toBe("Gain: Gain must lie between -60 and 48 dB.");
    expect(paramsFault(gain, { gainDb: NaN })).toContain("must be a number");
    expect(paramsFault(gain, { loud: 1 })).toBe('Gain has no parameter "loud".');
  });

  it("is found by a few letters of its name or of what people call it", () => {
    expect(searchEffects("comp")[0].id).toBe("compressor");
    expect(searchEffects("eq")[0].id).toBe("parametric-eq");
    expect(searchEffects("volume")[0].id).toBe("gain");
    expect(searchEffects("zzz")).toEqual([]);
  });
});
