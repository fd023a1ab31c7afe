// What one effect can take over from another that it replaces.
import type { EffectDescription, Params, ParamValue } from "./description";

/**
 * Values that another effect keeps: of parameters with the same id, kind and unit, brought within its limits.
 * @param values complete parameters of the effect that goes
 */
export function keptParams(old: EffectDescription, values: Params, effect: EffectDescription): Params {
  const kept: Record<string, ParamValue> = {};
  for (const param of effect.params) {
    const same = old.params.find((p) => p.id === param.id && p.kind === param.kind);
    const value = values[param.id];
    if (!same || value === undefined) continue;
    if (param.kind === "number" && same.kind === "number") {
      if (same.unit !== param.unit || typeof value !== "number") continue;
      kept[param.id] = Math.min(param.max, Math.max(param.min, value));
    } else if (param.kind === "choice") {
      if (param.choices.some((choice) => choice.value === value)) kept[param.id] = value;
    } else kept[param.id] = value;
  }
  return kept;
}
