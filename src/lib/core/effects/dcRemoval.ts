import { BiquadCascade } from "../audio/biquadCascade";
import { firstOrder, settleFrames } from "../audio/biquadDesign";
import { kernels } from "../kernels/instance";
import { choice, num, type EffectDescription, type Params, type Place, type Processor } from "./description";
import { choiceParam, numberParam } from "./params";

function sections(params: Params, sampleRate: number) {
  return [firstOrder("highPass", (2 * Math.PI * num(params, "cornerHz")) / sampleRate)];
}

/** Over this long the offset that is taken away goes back to nothing behind the sound's end. */
const END_SECONDS = 0.005;

/** Subtracts what was learnt, as long as there is sound: silence behind it has no offset. */
class OffsetRemoval implements Processor {
  readonly #left: number;
  readonly #right: number;
  readonly #ends: number;
  #at: number;

  constructor(
    { learnt, position, ends = Infinity }: Place,
    private readonly edge: number
  ) {
    this.#left = Number(learnt?.values.left ?? 0);
    this.#right = Number(learnt?.values.right ?? 0);
    this.#ends = ends;
    this.#at = position;
  }

  process(l: number, r: number, n: number): void {
    const inside = Math.max(0, Math.min(n, this.#ends - this.#at));
    kernels.offset(l, inside, -this.#left);
    kernels.offset(r, inside, -this.#right);
    // The ramp's frames, one by one: there are few of them.
    for (let i = inside; i < Math.min(n, this.#ends + this.edge - this.#at); i++) {
      const share = 0.5 + 0.5 * kernels.cos((Math.PI * (this.#at + i + 1 - this.#ends)) / (this.edge + 1));
      kernels.offset(l + i * 4, 1, -this.#left * share);
      kernels.offset(r + i * 4, 1, -this.#right * share);
    }
    this.#at += n;
  }

  release(): void {
    // It holds no memory.
  }
}

export const dcRemoval: EffectDescription = {
  id: "dc-removal",
  name: "DC removal",
  group: "repair",
  help: "Takes away a constant offset, which costs headroom and makes cuts click.",
  keywords: ["offset", "dc", "bias", "centre"],
  params: [
    choiceParam(
      "method",
      "Method",
      [
        ["mean", "Constant offset"],
        ["drift", "Drifting offset"]
      ],
      "Constant: the mean of each channel over the clip is subtracted, exactly. Drifting: a gentle high-pass."
    ),
    numberParam(
      ["cornerHz", "Corner", "Hz", 0.5, 20, 3, 1, 0.5],
      "Corner of the high-pass for a drifting offset.",
      "log"
    )
  ],
  presets: [
    { name: "Constant offset", params: { method: "mean" } },
    { name: "Drifting offset", params: { method: "drift", cornerHz: 3 } }
  ],
  summary: (params) =>
    choice(params, "method") === "mean" ? "the mean" : `below ${num(params, "cornerHz")} Hz`,
  latency: () => 0,
  settle: (params, sampleRate) =>
    choice(params, "method") === "mean" ? 0 : settleFrames(sections(params, sampleRate)),
  streamsWith: {
    params: { method: "drift" },
    holds: (params) => choice(params, "method") === "drift",
    why: "it takes a drifting offset away"
  },
  learns: (params) => choice(params, "method") === "mean",
  learn() {
    let left = 0;
    let right = 0;
    let frames = 0;
    return {
      push(l, r, n) {
        left += kernels.sum(l, n);
        right += kernels.sum(r, n);
        frames += n;
      },
      finish: () => ({ values: { left: left / Math.max(1, frames), right: right / Math.max(1, frames) } }),
      release: () => undefined
    };
  },
  found: (values) =>
    `Offset found: left ${Number(values.left).toFixed(5)}, right ${Number(values.right).toFixed(5)} of full scale.`,
  create(params, sampleRate, place) {
    if (choice(params, "method") !== "mean") return new BiquadCascade(sections(params, sampleRate));
    return new OffsetRemoval(place, Math.round(END_SECONDS * sampleRate));
  }
};
