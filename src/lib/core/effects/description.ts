// What an effect says of itself. The interface, the command line, presets and tests are made from it.

export type ParamValue = number | string | boolean;
export type Params = Readonly<Record<string, ParamValue>>;

interface ParamBase {
  readonly id: string;
  readonly name: string;
  /** One line of help. */
  readonly help: string;
  /** Parameters of one group are shown together, e.g. a band of an equalizer. */
  readonly group?: string;
}

export interface NumberParam extends ParamBase {
  readonly kind: "number";
  readonly unit: string;
  readonly min: number;
  readonly max: number;
  readonly default: number;
  readonly decimals: number;
  /** Step of an arrow key; a tenth of it with Shift. */
  readonly step: number;
  /** "log": equal ratios are equal distances on a slider. */
  readonly scale: "linear" | "log";
}

export interface ChoiceParam extends ParamBase {
  readonly kind: "choice";
  readonly choices: readonly { readonly value: string; readonly label: string }[];
  readonly default: string;
}

export interface SwitchParam extends ParamBase {
  readonly kind: "switch";
  readonly default: boolean;
}

export type Param = NumberParam | ChoiceParam | SwitchParam;

/** One running effect. Works in place on planar f32 stereo blocks in the kernels' memory. */
export interface Processor {
  /** l, r: addresses; n: frames, at most BLOCK. */
  process(l: number, r: number, n: number): void;
  /** Gives its memory back. */
  release(): void;
}

export interface EffectPreset {
  readonly name: string;
  readonly params: Params;
}

export interface EffectDescription {
  readonly id: string;
  readonly name: string;
  readonly help: string;
  /** Other words by which people look for it. */
  readonly keywords: readonly string[];
  readonly params: readonly Param[];
  readonly presets: readonly EffectPreset[];
  /** The setting that matters most, for one row of the sheet. */
  summary(params: Params): string;
  /** Delay of the output in frames; constant for a sample rate, whatever the parameters. */
  latency(sampleRate: number): number;
  /** Frames after which the past no longer matters (-120 dB): run-in for a start in the middle. */
  settle(params: Params, sampleRate: number): number;
  /** @throws nothing: parameters have been checked by `completeParams`. */
  create(params: Params, sampleRate: number): Processor;
}

/** A number parameter of complete params. */
export function num(params: Params, id: string): number {
  return params[id] as number;
}

/** "text" of a choice parameter of complete params. */
export function choice(params: Params, id: string): string {
  return params[id] as string;
}

/** State of a switch parameter of complete params. */
export function isOn(params: Params, id: string): boolean {
  return params[id] as boolean;
}

/** The parameters' default values. */
export function defaultParams(effect: EffectDescription): Record<string, ParamValue> {
  return Object.fromEntries(effect.params.map((p) => [p.id, p.default]));
}

/** Why a value is not allowed for a parameter, as a sentence's end; undefined when it is. */
export function paramFault(param: Param, value: unknown): string | undefined {
  switch (param.kind) {
    case "number":
      if (typeof value !== "number" || !Number.isFinite(value)) return "must be a number";
      if (value < param.min || value > param.max)
        return `must lie between ${param.min} and ${param.max}${param.unit ? ` ${param.unit}` : ""}`;
      return undefined;
    case "choice":
      return param.choices.some((c) => c.value === value)
        ? undefined
        : `must be one of ${param.choices.map((c) => c.value).join(", ")}`;
    case "switch":
      return typeof value === "boolean" ? undefined : "must be true or false";
  }
}
