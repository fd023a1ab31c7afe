// What an effect says of itself. The interface, the command line, presets and tests are made from it.

const MAX_PATH = 4096;

export type ParamValue = number | string | boolean;
export type Params = Readonly<Record<string, ParamValue>>;

interface ParamBase {
  readonly id: string;
  readonly name: string;
  /** One line of help. */
  readonly help: string;
  /** Whether it has no control of its own. */
  readonly hidden?: boolean;
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
  /** The value, one of its ends, at which what it does is off; none when left out. */
  readonly off?: number;
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

/** A recording, by its id in a project or its path on the command line; "" for none. */
export interface RecordingParam extends ParamBase {
  readonly kind: "recording";
  readonly default: "";
}

/** Something that was learnt and is carried along as text; "" for nothing. */
export interface DataParam extends ParamBase {
  readonly kind: "data";
  readonly default: "";
  /** Why a text is not such data, as a sentence's end; undefined when it is. */
  readonly fault: (text: string) => string | undefined;
}

export type Param = NumberParam | ChoiceParam | SwitchParam | RecordingParam | DataParam;

/** The whole sound of a short recording, at the rate at which the effect works. */
export interface Samples {
  readonly left: Float32Array;
  readonly right: Float32Array;
}

/** Where sound is kept that an effect must have as a whole. */
export interface Spool {
  /** Appends n frames. l, r: addresses of f32 blocks. */
  append(l: number, r: number, n: number): void;
  /** Reads n frames from `from` on; silence outside. */
  read(from: number, n: number, l: number, r: number): void;
  release(): void;
}

/** What an effect learnt from the whole of its input. */
export interface Learnt {
  readonly values: Readonly<Record<string, number | string>>;
  readonly sound?: Spool;
}

/** Hears the whole input of a step once, from the clip's first frame to its last. */
export interface Learner {
  /** l, r: addresses, left unchanged; n at most BLOCK. */
  push(l: number, r: number, n: number): void;
  /** For one with more to do once all is heard: does a part of it, until it returns the share done as 1; `finish` comes after. */
  work?(): number;
  finish(): Learnt;
  release(): void;
}

/** Where in a clip a processor begins, and what it may ask for. */
export interface Place {
  /** Frames of the clip. */
  readonly frames: number;
  /** Frame of the clip that is processed first; negative before its start. */
  readonly position: number;
  /** Where the clip's first frame lies in its recording, or on the timeline: what swings by itself follows it, so that a trim changes nothing; 0 when left out. */
  readonly origin?: number;
  /** Frame of the clip from which on its recording is silent: behind its last one, where a render has handles; no end when left out. */
  readonly ends?: number;
  /** For effects that learn: what was learnt. */
  readonly learnt?: Learnt;
  /** A recording named by a parameter; undefined when it is not at hand. */
  sound(id: string): Samples | undefined;
}

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

/** Where an effect is found when one looks through all of them; the last is that of what this version does not have. */
export const EFFECT_GROUPS = {
  dynamics: "Level and dynamics",
  tone: "Tone",
  space: "Space and echo",
  repair: "Repair",
  channels: "Channels",
  whole: "Whole clip",
  unknown: "Unknown here"
} as const;
export type EffectGroup = keyof typeof EFFECT_GROUPS;

export interface EffectDescription {
  readonly id: string;
  readonly name: string;
  readonly group: EffectGroup;
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
  /** Frames that sound on after the input has ended, until they are 90 dB down; 0 when left out. */
  tail?(params: Params, sampleRate: number): number;
  /** Longest silence inside the tail, in frames: echoes lie that far apart; 0 when left out. */
  gap?(params: Params, sampleRate: number): number;
  /** Whether equal channels may come out different. */
  widens?(params: Params): boolean;
  /** Whether a sound depends on where in its clip it lies, as in a fade; never when left out. */
  readonly placed?: boolean;
  /** Whether it counts from where its sound begins and ends, which a track has not; never when left out. */
  readonly bounded?: boolean;
  /** Whether it is for one clip alone, never for all that show a recording; not when left out. */
  readonly clipOnly?: boolean;
  /** For effects that need all of their input first: settings with which they do without, so that they can be on a track. */
  readonly streamsWith?: {
    readonly params: Params;
    /** Whether parameters are such settings. */
    readonly holds: (params: Params) => boolean;
    /** In words, as the end of "unless …". */
    readonly why: string;
  };
  /** For effects that need all of their input first: makes what hears it. */
  learn?(params: Params, sampleRate: number, place: LearnPlace): Learner;
  /** Whether an effect with `learn` has something to learn with these parameters; always when left out. */
  learns?(params: Params): boolean;
  /** What was learnt, in a few words for people. */
  found?(values: Learnt["values"]): string;
  /** @throws nothing: parameters have been checked by `completeParams`. */
  create(params: Params, sampleRate: number, place: Place): Processor;
}

/** What a learner is told. */
export interface LearnPlace {
  readonly frames: number;
  /** Channels that count in what is measured: with 1, the left. */
  readonly channels: 1 | 2;
  /** Makes room for sound that has to be kept. */
  spool(): Spool;
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
    case "recording":
      return typeof value === "string" && value.length <= MAX_PATH
        ? undefined
        : "must be the name of a recording";
    case "data":
      if (typeof value !== "string") return "must be text";
      return value === "" ? undefined : param.fault(value);
  }
}
