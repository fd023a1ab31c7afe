import { kernels } from "../kernels/instance";
import { dbToGain, formatDb } from "../units/decibels";
import { ClipRestorer } from "./clipRestorer";
import { factorOf, runsFromText, runsToText, type ClippedRuns } from "./clippedRuns";
import { choice, num, type EffectDescription, type Learnt, type Processor } from "./description";
import { choiceParam, mixParam, numberParam } from "./params";
import { PASSES } from "./passes";
import { withMix } from "./wetDry";

/** Raises the clipped samples of one side; all others stay as they are. */
class RaisedSamples {
  #run = 0;
  /** Index of the run's first step. */
  #step = 0;

  constructor(private readonly channel: ClippedRuns) {}

  /** Works on n samples at an address, of which the first is at a frame; frames only grow. */
  process(address: number, frame: number, n: number): void {
    const { runs, steps } = this.channel;
    for (; this.#run < runs.length; this.#run += 2) {
      const [first, length] = [runs[this.#run], runs[this.#run + 1]];
      if (first >= frame + n) return;
      const x = new Float32Array(kernels.memory.buffer, address, n);
      for (let i = Math.max(first, frame); i < Math.min(first + length, frame + n); i++)
        x[i - frame] *= factorOf(steps[this.#step + i - first]);
      if (first + length > frame + n) return;
      this.#step += length;
    }
  }
}

function processorFor(text: string, position: number): Processor {
  const channels = runsFromText(text);
  // A mono sound is the same on both sides.
  const sides = [channels[0], channels[1] ?? channels[0]].map((channel) => new RaisedSamples(channel));
  let at = position;
  return {
    process(l, r, n) {
      sides[0].process(l, at, n);
      sides[1].process(r, at, n);
      at += n;
    },
    release: () => undefined
  };
}

const isSet = (choices: string) => choices === "set";

export const declip: EffectDescription = {
  id: "declip",
  name: "De-clip",
  group: "repair",
  help: "Restores tops that were cut off by too high a level; what comes of it is louder than full scale and wants a lower gain behind it.",
  keywords: ["declip", "clipping", "distortion", "overload", "overdriven", "restore", "repair", "crackle"],
  params: [
    choiceParam(
      "level",
      "Clipped at",
      [
        ["find", "Find the level"],
        ["set", "Set the level"]
      ],
      "Find: the largest values, if the sound is flat there. Set: for sound that was clipped and changed afterwards, or recorded at another rate than the project's, so that its tops are no longer flat."
    ),
    numberParam(
      ["levelDb", "Level", "dB", -40, 0, -1, 2, 0.1],
      "Samples at this level and above are made anew, when the level is not to be found."
    ),
    mixParam()
  ],
  presets: [
    { name: "Tops that are not quite flat", params: { level: "set", levelDb: -0.5 } },
    { name: "Clipped, then lowered by 6 dB", params: { level: "set", levelDb: -6.2 } }
  ],
  summary: (params) =>
    isSet(choice(params, "level")) ? `above ${formatDb(num(params, "levelDb"))} dBFS` : "finds the level",
  latency: () => 0,
  settle: () => 0,
  learn(params, sampleRate, { channels, spool }) {
    const level = isSet(choice(params, "level")) ? dbToGain(num(params, "levelDb")) : 0;
    const restorer = new ClipRestorer(sampleRate, channels, level, spool());
    return {
      push: (l, r, n) => restorer.push(l, r, n),
      work: () => restorer.work(),
      finish(): Learnt {
        const restored = restorer.finish();
        if (!restored) return { values: { samples: 0, runs: "" } };
        const { samples, levelDb, truePeakDbtp } = restored;
        return { values: { samples, levelDb, truePeakDbtp, runs: runsToText(restored.channels) } };
      },
      release: () => restorer.release()
    };
  },
  found: ({ samples, levelDb, truePeakDbtp }) =>
    samples === 0
      ? "Nothing clipped was found: nothing is changed."
      : `${samples} sample${samples === 1 ? "" : "s"} clipped at ${formatDb(Number(levelDb))} dBFS; restored they reach ${formatDb(Number(truePeakDbtp), 1, true)} dBTP.`,
  create(params, _sampleRate, { learnt, position }) {
    const text = String(learnt?.values.runs ?? "");
    return text === "" ? PASSES : withMix(processorFor(text, position), 0, num(params, "mixPercent"));
  }
};
