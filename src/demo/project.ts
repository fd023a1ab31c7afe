// How the demo's recordings lie on the timeline.
import type { Clip, Document, RecipeStep, Recording, Step } from "$lib/core/session/schema";
import { RATE } from "./sounds";

type Params = RecipeStep["params"];

/** Recordings by the names that `seed.ts` gives them. */
export type Shelf = Readonly<Record<string, Recording>>;

const step = (effect: string, params: Params, on = true): RecipeStep => ({ effect, on, params });

/** Chains that are saved as presets as well. */
export const CHAINS = {
  lowInterview: [
    step("gain", { gainDb: 28 }),
    step("parametric-eq", {
      on1: true,
      type1: "highPass",
      freq1: 90,
      slope1: "12",
      on2: true,
      type2: "peak",
      freq2: 260,
      gain2: -3,
      q2: 1.2,
      on3: true,
      type3: "highShelf",
      freq3: 6500,
      gain3: -4,
      q3: 0.7
    }),
    step("compressor", { thresholdDb: -30, ratio: 3, attackMs: 8, releaseMs: 160, makeUpDb: 4 }),
    step("limiter", { gainDb: 8, ceilingDb: -2, releaseMs: 90 })
  ],
  telephone: [
    step("parametric-eq", {
      on1: true,
      type1: "highPass",
      freq1: 290,
      slope1: "48",
      on2: true,
      type2: "notch",
      freq2: 350,
      q2: 12,
      on3: true,
      type3: "peak",
      freq3: 1800,
      gain3: 3,
      q3: 0.9
    }),
    step("compressor", { thresholdDb: -28, ratio: 4, attackMs: 5, releaseMs: 140, makeUpDb: 6 })
  ]
} as const;

let next = 0;
function steps(recipe: readonly RecipeStep[]): Step[] {
  return recipe.map((s) => ({ id: `step-${++next}`, ...s, params: { ...s.params } }));
}

const at = (seconds: number) => Math.round(seconds * RATE);

function clip(
  name: string,
  recording: Recording,
  start: number,
  change: Partial<Clip> & { from?: number; seconds?: number } = {}
): Clip {
  const { from = 0, seconds, ...rest } = change;
  const offset = at(from);
  return {
    id: `clip-${++next}`,
    name,
    recordingId: recording.id,
    start: at(start),
    offset,
    length:
      seconds === undefined ? recording.frames - offset : Math.min(at(seconds), recording.frames - offset),
    gainDb: 0,
    muted: false,
    fadeIn: { length: 0, curve: "straight" },
    fadeOut: { length: 0, curve: "straight" },
    steps: [],
    render: null,
    ...rest
  };
}

const fade = (seconds: number, curve: Clip["fadeIn"]["curve"]) => ({ length: at(seconds), curve });

/** The feature, two minutes and a quarter. Engineer 1 and 3 are rendered afterwards by `seed.ts`. */
export function demoDocument(shelf: Shelf): Document {
  const track = (id: string, name: string, gainDb: number, clips: Clip[], pan = 0) => ({
    id,
    name,
    gainDb,
    pan,
    muted: false,
    solo: false,
    clips
  });
  const section = (id: string, name: string, start: number, end: number) => ({
    id,
    name,
    start: at(start),
    length: at(end - start)
  });
  return {
    format: "wring/project/1",
    name: "Last Boat to Varnsey",
    sampleRate: RATE,
    sections: [
      section("s1", "Opening", 0, 31),
      section("s2", "The engine", 31, 76),
      section("s3", "The call", 76, 104),
      section("s4", "The last crossing", 104, 137)
    ],
    recordings: Object.values(shelf),
    tracks: [
      track("narrator", "Narrator", -8, [
        clip("Bell on the quay", shelf.narrator1, 8),
        clip("Sixty-one years", shelf.narrator2, 18.5),
        clip("Down below", shelf.narrator3, 33.5),
        clip("A bad line", shelf.narrator4, 79),
        clip("And so in winter", shelf.narrator5, 110, {
          steps: steps([
            step("compressor", { thresholdDb: -24, ratio: 2, attackMs: 12, releaseMs: 200, makeUpDb: 2 })
          ])
        })
      ]),
      track("interview", "Interview", 0, [
        clip("Engineer 1", shelf.interview, 40, {
          from: 2.4,
          seconds: 8.3,
          steps: steps(CHAINS.lowInterview),
          fadeIn: fade(0.05, "sShaped"),
          fadeOut: fade(0.15, "sShaped")
        }),
        clip("Engineer 2", shelf.interview, 51, {
          from: 12.8,
          seconds: 7.8,
          steps: steps(CHAINS.lowInterview),
          fadeIn: fade(0.05, "sShaped"),
          fadeOut: fade(0.15, "sShaped")
        }),
        clip("Engineer 3", shelf.interview, 62, {
          from: 22.8,
          seconds: 6.1,
          steps: steps(CHAINS.lowInterview),
          fadeIn: fade(0.05, "sShaped"),
          fadeOut: fade(0.15, "sShaped")
        })
      ]),
      track("telephone", "Telephone", -3, [
        clip("Harbour office 1", shelf.telephone, 86.5, {
          from: 1.3,
          seconds: 9.2,
          steps: steps(CHAINS.telephone),
          fadeIn: fade(0.1, "straight"),
          fadeOut: fade(0.2, "straight")
        }),
        clip("Harbour office 2", shelf.telephone, 97, {
          from: 11.5,
          seconds: 5.2,
          steps: steps(CHAINS.telephone.map((s) => ({ ...s, on: false })))
        })
      ]),
      track(
        "bell",
        "Bell",
        -8,
        [
          clip("Bell, first", shelf.bell, 3, { from: 0.2, seconds: 3.6, fadeOut: fade(0.4, "equalPower") }),
          clip("Bell, second", shelf.bell, 5.6, {
            from: 4.25,
            seconds: 3.6,
            fadeOut: fade(0.4, "equalPower")
          }),
          clip("Bell, far off", shelf.bell, 27.5, {
            from: 8.35,
            seconds: 4.2,
            gainDb: -6,
            fadeOut: fade(1, "equalPower"),
            steps: steps([step("parametric-eq", { on1: true, type1: "lowPass", freq1: 2200, slope1: "12" })])
          }),
          clip("Bell, last", shelf.bell, 119, { from: 0.2, seconds: 4, fadeOut: fade(0.6, "equalPower") }),
          clip("Bell, last again", shelf.bell, 122.5, {
            from: 8.35,
            seconds: 4.5,
            fadeOut: fade(1.2, "equalPower")
          })
        ],
        0.2
      ),
      track("air", "Engine and wind", -10, [
        clip("Wind, morning", shelf.wind, 0, {
          seconds: 32,
          fadeIn: fade(3, "sShaped"),
          fadeOut: fade(4, "equalPower")
        }),
        clip("Engine", shelf.engine, 29, {
          seconds: 49,
          fadeIn: fade(3.5, "equalPower"),
          fadeOut: fade(4, "sShaped"),
          steps: steps([
            step("parametric-eq", {
              on1: true,
              type1: "lowPass",
              freq1: 1800,
              slope1: "12",
              on2: true,
              type2: "peak",
              freq2: 340,
              gain2: -4,
              q2: 1
            })
          ])
        }),
        clip("Wind, evening", shelf.wind, 103, {
          from: 30,
          seconds: 34,
          fadeIn: fade(4, "sShaped"),
          fadeOut: fade(6, "logarithmic")
        })
      ]),
      track("theme", "Theme", -9, [
        clip("Theme, cut off", shelf.theme, 0.5, { seconds: 9.4 }),
        clip("Theme, close", shelf.theme, 124, { seconds: 13, fadeOut: fade(3, "sShaped") })
      ])
    ]
  };
}
