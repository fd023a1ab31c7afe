// Short ways to describe parameters.
import type { ChoiceParam, NumberParam, SwitchParam } from "./description";

type NumberSpec = readonly [
  id: string,
  name: string,
  unit: string,
  min: number,
  max: number,
  value: number,
  decimals: number,
  step: number
];

export function numberParam(
  [id, name, unit, min, max, value, decimals, step]: NumberSpec,
  help: string,
  scale: NumberParam["scale"] = "linear",
  off?: number
): NumberParam {
  const whole = { id, name, unit, min, max, default: value, decimals, step, scale, help };
  return { kind: "number", ...whole, ...(off === undefined ? {} : { off }) };
}

/** choices: pairs of value and label; the first is the default unless said. */
export function choiceParam(
  id: string,
  name: string,
  choices: readonly (readonly [value: string, label: string])[],
  help: string,
  standard = choices[0][0]
): ChoiceParam {
  return {
    kind: "choice",
    id,
    name,
    choices: choices.map(([value, label]) => ({ value, label })),
    default: standard,
    help
  };
}

export function switchParam(id: string, name: string, standard: boolean, help: string): SwitchParam {
  return { kind: "switch", id, name, default: standard, help };
}

/** Wet/dry, the same for all effects that have it. */
export function mixParam(
  standard = 100,
  help = "Share of the treated sound; 0 % is the untreated one."
): NumberParam {
  return numberParam(["mixPercent", "Wet/dry", "%", 0, 100, standard, 0, 5], help);
}
