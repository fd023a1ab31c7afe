// Chains that come with Wring, for common work. Their values are starting points, common practice with no source unless one is named.
import { defaultParams } from "../effects/description";
import { effectOf } from "../effects/registry";
import type { Params } from "../effects/description";
import type { RecipeStep } from "../session/schema";

export interface FactoryPreset {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
  readonly steps: readonly RecipeStep[];
}

const step = (effect: string, params: Params = {}): RecipeStep => ({
  effect,
  on: true,
  params: { ...defaultParams(effectOf(effect)), ...params },
  span: null
});

const highPass = (freq1: number, more: Params = {}) =>
  step("parametric-eq", { on1: true, type1: "highPass", freq1, ...more });

interface Text {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
}

const chain = (text: Text, ...steps: readonly RecipeStep[]): FactoryPreset => ({ ...text, steps });

export const FACTORY_PRESETS: readonly FactoryPreset[] = [
  chain(
    {
      id: "wring-web-speech",
      name: "Speech for the web",
      notes:
        "Bass cut, peaks at -1 dB, light noise reduction that learns from each recording, even level, peaks at -1 dB again.",
      tags: ["speech", "podcast", "weekly"]
    },
    highPass(85),
    step("normalize", { target: "peak", levelDb: -1 }),
    step("noise-reduction", { source: "learn", reductionDb: 8 }),
    step("compressor", { thresholdDb: -20, ratio: 2.5, attackMs: 8, releaseMs: 140 }),
    step("normalize", { target: "peak", levelDb: -1 })
  ),
  chain(
    {
      id: "wring-rescue-low",
      name: "Rescue of a recording made far too low",
      notes:
        "Up to 24 dB into a limiter just under full scale, after the rumble is cut; then set the clip's gain by ear.",
      tags: ["rescue", "level"]
    },
    highPass(70),
    step("limiter", { gainDb: 24, ceilingDb: -0.1, truePeak: true })
  ),
  chain(
    {
      id: "wring-telephone",
      name: "Voice on a telephone",
      notes: "The band of a telephone line, 300 to 3400 Hz (ITU-T G.712), held down, in mono.",
      tags: ["speech", "effect"]
    },
    step("channels", { mode: "mono" }),
    step("parametric-eq", {
      on1: true,
      type1: "highPass",
      freq1: 300,
      slope1: "24",
      on2: true,
      type2: "lowPass",
      freq2: 3400,
      slope2: "24",
      on3: true,
      type3: "peak",
      freq3: 1500,
      gain3: 3,
      q3: 1
    }),
    step("compressor", { thresholdDb: -26, ratio: 6, attackMs: 2, releaseMs: 80, autoMakeUp: true })
  ),
  chain(
    {
      id: "wring-noisy-room",
      name: "Voice in a noisy room",
      notes:
        "Noise that stays the same is reduced by half of what could be, what is left between words goes down a little.",
      tags: ["speech", "repair"]
    },
    highPass(90),
    step("noise-reduction", { source: "learn", reductionDb: 12 }),
    step("expander", { thresholdDb: -45, ratio: 1.6, rangeDb: 9, holdMs: 120, releaseMs: 250 })
  ),
  chain(
    {
      id: "wring-mains-hum",
      name: "Mains hum",
      notes: "Finds the mains by itself and takes out its lines, then what lies under the voice.",
      tags: ["repair"]
    },
    step("hum-removal"),
    highPass(60)
  ),
  chain(
    {
      id: "wring-sung-voice",
      name: "Sung voice",
      notes: "Open top, sibilants held, two gentle compressions instead of a hard one, a hall behind it.",
      tags: ["music", "voice"]
    },
    highPass(100, { on4: true, type4: "highShelf", freq4: 9000, gain4: 2 }),
    step("de-esser", { amountDb: 6 }),
    step("compressor", { thresholdDb: -24, ratio: 2, attackMs: 20, releaseMs: 200 }),
    step("compressor", { thresholdDb: -14, ratio: 3, attackMs: 4, releaseMs: 90 }),
    step("reverb", { sizePercent: 55, decayS: 1.8, preDelayMs: 35, mixPercent: 16 })
  ),
  chain(
    {
      id: "wring-ring-out",
      name: "Ending that rings out",
      notes:
        "A large room for the last notes of a cue. Switch the clip's ring-out on, so that it sounds on after the end.",
      tags: ["music", "space"]
    },
    step("reverb", { sizePercent: 75, decayS: 3.2, highDecayPercent: 45, preDelayMs: 20, mixPercent: 30 })
  ),
  chain(
    {
      id: "wring-night-programme",
      name: "Night programme, narrow loudness range",
      notes:
        "Quiet passages come up and loud ones go down, so that it can be followed softly: about half the loudness range.",
      tags: ["speech", "music", "loudness"]
    },
    step("leveller", { mostDb: 12, seconds: 2 }),
    step("compressor", {
      thresholdDb: -28,
      ratio: 3,
      kneeDb: 12,
      attackMs: 15,
      releaseMs: 250,
      autoMakeUp: true
    }),
    step("limiter", { gainDb: 0, ceilingDb: -2, truePeak: true })
  ),
  chain(
    {
      id: "wring-location-voice",
      name: "Voice recorded outdoors",
      notes: "Wind and pops below the voice, a clearer middle, sibilants held.",
      tags: ["speech", "repair"]
    },
    step("plosive-removal"),
    highPass(110, { on3: true, type3: "peak", freq3: 2800, gain3: 2.5, q3: 0.9 }),
    step("de-esser", { amountDb: 5 })
  ),
  chain(
    {
      id: "wring-worn-record",
      name: "Transfer of a worn record",
      notes: "Clicks mended, rumble and hiss taken down, both sides even.",
      tags: ["music", "repair"]
    },
    step("click-repair"),
    highPass(35),
    step("noise-reduction", { source: "learn", reductionDb: 6 })
  ),
  chain(
    {
      id: "wring-broadcast-level",
      name: "Finished at -23 LUFS (EBU R 128)",
      notes: "One gain to -23 LUFS, peaks under -1 dBTP as EBU R 128 asks.",
      tags: ["loudness", "delivery"]
    },
    step("normalize", { target: "integrated", levelDb: -23 }),
    step("limiter", { gainDb: 0, ceilingDb: -1, truePeak: true })
  )
];
