import { pole } from "../audio/smoothing";
import { kernels } from "../kernels/instance";
import { Buffer } from "../kernels/memory";
import { choice, isOn, num, type EffectDescription, type Params, type Processor } from "./description";
import { choiceParam, mixParam, numberParam, switchParam } from "./params";
import { withMix } from "./wetDry";

const NO_DAMPING = 20000;
const MAX_SECONDS = 8;

/** Time between echoes in seconds. */
export function delaySeconds(params: Params): number {
  if (choice(params, "timing") === "time") return num(params, "timeMs") / 1000;
  return Math.min(MAX_SECONDS, (num(params, "beats") * 60) / num(params, "tempo"));
}

/** Echoes until they are `db` down: each is weaker by the feedback. */
function echoes(params: Params, db: number): number {
  const feedback = num(params, "feedbackPercent") / 100;
  return feedback === 0 ? 1 : 1 + Math.ceil(db / (-20 * Math.log10(feedback)));
}

class Delay implements Processor {
  readonly #params = new Buffer(5 * 8);
  readonly #state: Buffer;

  constructor(params: Params, sampleRate: number) {
    const frames = Math.max(1, Math.round(delaySeconds(params) * sampleRate));
    const corner = num(params, "dampingHz");
    const lowCut = num(params, "lowCutHz");
    const ofHertz = (hertz: number) => pole(1 / (2 * Math.PI * hertz), sampleRate);
    this.#state = new Buffer(64 + frames * 8);
    this.#params.f64.set([
      frames,
      num(params, "feedbackPercent") / 100,
      corner >= NO_DAMPING ? 0 : ofHertz(corner),
      isOn(params, "pingPong") ? 1 : 0,
      lowCut <= 20 ? 0 : 1 - ofHertz(lowCut)
    ]);
  }

  process(l: number, r: number, n: number): void {
    kernels.echo(l, r, n, this.#params.ptr, this.#state.ptr);
  }

  release(): void {
    this.#params.release();
    this.#state.release();
  }
}

export const delay: EffectDescription = {
  id: "delay",
  name: "Delay",
  group: "space",
  help: "Echoes that repeat after a time or on the beat.",
  keywords: ["echo", "repeat", "ping-pong", "slapback", "beats"],
  params: [
    choiceParam(
      "timing",
      "Timing",
      [
        ["time", "Milliseconds"],
        ["beats", "Beats"]
      ],
      "Whether the time is typed in milliseconds or in beats of the tempo."
    ),
    numberParam(["timeMs", "Time", "ms", 1, 5000, 350, 1, 10], "Time between echoes.", "log"),
    numberParam(
      ["beats", "Beats", "", 0.0625, 4, 0.5, 4, 0.125],
      "Time between echoes in beats; 0.5 is an eighth note in 4/4."
    ),
    numberParam(["tempo", "Tempo", "BPM", 30, 300, 120, 1, 1], "Beats a minute."),
    numberParam(["feedbackPercent", "Feedback", "%", 0, 95, 35, 0, 5], "How much of each echo is repeated."),
    switchParam("pingPong", "Ping-pong", false, "Echoes change sides, beginning at the left."),
    numberParam(
      ["dampingHz", "Damping", "Hz", 500, NO_DAMPING, 6000, 0, 100],
      "Every repetition loses what lies above.",
      "log",
      NO_DAMPING
    ),
    numberParam(
      ["lowCutHz", "Low cut", "Hz", 20, 1000, 20, 0, 10],
      "Every repetition loses what lies below.",
      "log",
      20
    ),
    mixParam(30, "Share of the echoes; 0 % is the untreated sound.")
  ],
  presets: [
    { name: "Slapback", params: { timeMs: 95, feedbackPercent: 0, mixPercent: 25 } },
    {
      name: "Across the valley",
      params: { timeMs: 620, feedbackPercent: 45, dampingHz: 2500, lowCutHz: 200, mixPercent: 30 }
    },
    { name: "From side to side", params: { timeMs: 300, feedbackPercent: 50, pingPong: true } }
  ],
  summary: (params) => `${Math.round(delaySeconds(params) * 1000)} ms, ${num(params, "feedbackPercent")} %`,
  latency: () => 0,
  settle: (params, sampleRate) => Math.ceil(echoes(params, 120) * delaySeconds(params) * sampleRate),
  tail: (params, sampleRate) => Math.ceil(echoes(params, 90) * delaySeconds(params) * sampleRate),
  gap: (params, sampleRate) => Math.ceil(delaySeconds(params) * sampleRate),
  widens: (params) => isOn(params, "pingPong"),
  create: (params, sampleRate) => withMix(new Delay(params, sampleRate), 0, num(params, "mixPercent"))
};
