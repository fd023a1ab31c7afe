// How the demo's recordings lie on the timeline.
import type { Document } from "$lib/core/session/document";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecipeStep,
  newSection,
  newStep,
  newTrack
} from "$lib/core/session/make";
import type { Chain, Clip, Fade, RecipeStep, Recording } from "$lib/core/session/schema";
import { RATE } from "./sounds";

/** Recordings by the names that `seed.ts` gives them. */
export type Shelf = Readonly<Record<string, Recording>>;

const step = newRecipeStep;

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

const at = (seconds: number) => Math.round(seconds * RATE);
const fade = (seconds: number, curve: Fade["shape"]["curve"]): Fade => ({
  length: at(seconds),
  shape: { curve }
});

/** Makes clips with ids that are always the same. */
class Layout {
  #next = 0;
  readonly clips: Clip[] = [];
  readonly chains: Chain[] = [];

  place(
    track: string,
    name: string,
    recording: Recording,
    start: number,
    change: Partial<Pick<Clip, "fadeIn" | "fadeOut" | "gainDb">> & {
      from?: number;
      seconds?: number;
      steps?: readonly RecipeStep[];
    } = {}
  ): void {
    const { from = 0, seconds, steps = [], ...rest } = change;
    const offset = at(from);
    const left = recording.frames - offset;
    const length = seconds === undefined ? left : Math.min(at(seconds), left);
    const id = `clip-${++this.#next}`;
    const made = steps.map((s) => newStep(`step-${++this.#next}`, s.effect, s.params, s.on));
    const chain = made.length > 0 ? newChain(`chain-${this.#next}`, made) : null;
    const clip = newClip(id, track, recording, at(start), {
      name,
      offset,
      length,
      chain: chain?.id ?? null,
      ...rest
    });
    this.clips.push(clip);
    if (chain) this.chains.push(chain);
  }
}

/** An equalizer on the narrator's track, and a limiter on the mix that no peak passes. */
function busChains(): Chain[] {
  const voice = newStep("narrator-eq", "parametric-eq", {
    on1: true,
    type1: "highPass",
    freq1: 75,
    slope1: "12",
    on2: true,
    type2: "peak",
    freq2: 3200,
    gain2: 2,
    q2: 0.8
  });
  const safety = newStep("mix-limiter", "limiter", { ceilingDb: -1, releaseMs: 60 });
  return [newChain("chain-narrator", [voice]), newChain("chain-mix", [safety])];
}

const ENGINE_STEPS = [
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
];

/**
 * The feature, two minutes and a quarter. Engineer 1 and 3 are rendered afterwards by `seed.ts`. Three joins in it pop, for the join check to
 * find: a piece of the engine is missing, the narrator is cut into a word, the closing theme begins in the middle of a note.
 */
export function demoDocument(shelf: Shelf): Document {
  const layout = new Layout();
  layout.place("narrator", "Bell on the quay", shelf.narrator1, 8);
  layout.place("narrator", "Sixty-one years", shelf.narrator2, 18.5);
  layout.place("narrator", "Down below", shelf.narrator3, 33.5);
  layout.place("narrator", "A bad line", shelf.narrator4, 79, { from: 0.42 });
  layout.place("narrator", "And so in winter", shelf.narrator5, 110, {
    steps: [step("compressor", { thresholdDb: -24, ratio: 2, attackMs: 12, releaseMs: 200, makeUpDb: 2 })]
  });
  layout.place("interview", "Engineer 1", shelf.interview, 40, {
    from: 2.4,
    seconds: 8.3,
    steps: CHAINS.lowInterview,
    fadeIn: fade(0.05, "sShaped"),
    fadeOut: fade(0.15, "sShaped")
  });
  layout.place("interview", "Engineer 2", shelf.interview, 51, {
    from: 12.8,
    seconds: 7.8,
    steps: CHAINS.lowInterview,
    fadeIn: fade(0.05, "sShaped"),
    fadeOut: fade(0.15, "sShaped")
  });
  layout.place("interview", "Engineer 3", shelf.interview, 62, {
    from: 22.8,
    seconds: 6.1,
    steps: CHAINS.lowInterview,
    fadeIn: fade(0.05, "sShaped"),
    fadeOut: fade(0.15, "sShaped")
  });
  layout.place("telephone", "Harbour office 1", shelf.telephone, 86.5, {
    from: 1.3,
    seconds: 9.2,
    steps: CHAINS.telephone,
    fadeIn: fade(0.1, "straight"),
    fadeOut: fade(0.2, "straight")
  });
  layout.place("telephone", "Harbour office 2", shelf.telephone, 97, {
    from: 11.5,
    seconds: 5.2,
    fadeIn: fade(0.03, "straight"),
    fadeOut: fade(0.05, "straight"),
    steps: CHAINS.telephone.map((s) => step(s.effect, s.params, false))
  });
  layout.place("bell", "Bell, first", shelf.bell, 3, {
    from: 0.2,
    seconds: 3.6,
    fadeOut: fade(0.4, "equalPower")
  });
  layout.place("bell", "Bell, second", shelf.bell, 5.6, {
    from: 4.25,
    seconds: 3.6,
    fadeOut: fade(0.4, "equalPower")
  });
  layout.place("bell", "Bell, far off", shelf.bell, 27.5, {
    from: 8.35,
    seconds: 4.2,
    gainDb: -6,
    fadeOut: fade(1, "equalPower"),
    steps: [step("parametric-eq", { on1: true, type1: "lowPass", freq1: 2200, slope1: "12" })]
  });
  layout.place("bell", "Bell, last", shelf.bell, 119, {
    from: 0.2,
    seconds: 4,
    fadeOut: fade(0.6, "equalPower")
  });
  layout.place("bell", "Bell, last again", shelf.bell, 122.5, {
    from: 8.35,
    seconds: 4.5,
    fadeOut: fade(1.2, "equalPower")
  });
  layout.place("air", "Wind, morning", shelf.wind, 0, {
    seconds: 32,
    fadeIn: fade(3, "sShaped"),
    fadeOut: fade(4, "equalPower")
  });
  layout.place("air", "Engine", shelf.engine, 29, {
    seconds: 31.3,
    fadeIn: fade(3.5, "equalPower"),
    steps: ENGINE_STEPS
  });
  layout.place("air", "Engine, later", shelf.engine, 60.3, {
    from: 31.437,
    seconds: 17.7,
    fadeOut: fade(4, "sShaped"),
    steps: ENGINE_STEPS
  });
  layout.place("air", "Wind, evening", shelf.wind, 103, {
    from: 30,
    seconds: 34,
    fadeIn: fade(4, "sShaped"),
    fadeOut: fade(6, "logarithmic")
  });
  layout.place("theme", "Theme, first half", shelf.theme, 0.5, {
    seconds: 9.4,
    fadeOut: fade(0.3, "smooth")
  });
  layout.place("theme", "Theme, close", shelf.theme, 124, {
    from: 1.07919,
    seconds: 13,
    fadeOut: fade(3, "sShaped")
  });
  const section = (id: string, name: string, start: number, end: number) =>
    newSection(id, name, at(start), at(end - start));
  const tracks = [
    newTrack("narrator", "Narrator", 1, { gainDb: -8, chain: "chain-narrator" }),
    newTrack("interview", "Interview", 2, { gainDb: 0 }),
    newTrack("telephone", "Telephone", 3, { gainDb: -3 }),
    newTrack("bell", "Bell", 4, { gainDb: -8, pan: 0.2 }),
    newTrack("air", "Engine and wind", 5, { gainDb: -10 }),
    newTrack("theme", "Theme", 6, { gainDb: -9 })
  ];
  const project = newProject("Last Boat to Varnsey", RATE);
  return documentOf(
    { ...project, mix: { ...project.mix, chain: "chain-mix" } },
    {
      tracks,
      clips: layout.clips,
      chains: [...layout.chains, ...busChains()],
      recordings: Object.values(shelf),
      sections: [
        section("s1", "Opening", 0, 31),
        section("s2", "The engine", 31, 76),
        section("s3", "The call", 76, 104),
        section("s4", "The last crossing", 104, 137)
      ]
    }
  );
}
