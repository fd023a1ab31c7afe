import { kernels } from "../kernels/instance";
import { choice, num, type EffectDescription, type Params } from "./description";
import { choiceParam, numberParam } from "./params";

type Matrix = readonly [ll: number, lr: number, rl: number, rr: number];

const MODES: Record<string, Matrix> = {
  stereo: [1, 0, 0, 1],
  mono: [0.5, 0.5, 0.5, 0.5],
  swap: [0, 1, 1, 0],
  left: [1, 0, 1, 0],
  right: [0, 1, 0, 1]
};

function times(a: Matrix, b: Matrix): Matrix {
  return [
    a[0] * b[0] + a[1] * b[2],
    a[0] * b[1] + a[1] * b[3],
    a[2] * b[0] + a[3] * b[2],
    a[2] * b[1] + a[3] * b[3]
  ];
}

/** Gains from left and right to left and right: source, then width (the side signal's share), then balance. */
function channelMatrix(params: Params): Matrix {
  const width = num(params, "widthPercent") / 100;
  const balance = num(params, "balancePercent") / 100;
  const near = (1 + width) / 2;
  const far = (1 - width) / 2;
  const level: Matrix = [Math.min(1, 1 - balance), 0, 0, Math.min(1, 1 + balance)];
  return times(level, times([near, far, far, near], MODES[choice(params, "mode")]));
}

export const channels: EffectDescription = {
  id: "channels",
  name: "Channels",
  group: "channels",
  help: "Folds to mono, swaps, takes one side, narrows, widens or balances.",
  keywords: ["mono", "swap", "width", "balance", "stereo", "mid", "side", "left", "right", "pan"],
  params: [
    choiceParam(
      "mode",
      "Source",
      [
        ["stereo", "Stereo as it is"],
        ["mono", "Fold to mono"],
        ["swap", "Swap sides"],
        ["left", "Left on both"],
        ["right", "Right on both"]
      ],
      "Which channels are heard where; mono is half of left plus half of right."
    ),
    numberParam(
      ["widthPercent", "Width", "%", 0, 200, 100, 0, 5],
      "Share of the difference between the sides: 0 % is mono, 200 % twice as wide."
    ),
    numberParam(
      ["balancePercent", "Balance", "%", -100, 100, 0, 0, 5],
      "Turns one side down: -100 % leaves the left, +100 % the right."
    )
  ],
  presets: [
    { name: "Fold to mono", params: { mode: "mono" } },
    { name: "Left on both sides", params: { mode: "left" } },
    { name: "Narrower", params: { widthPercent: 60 } }
  ],
  summary(params) {
    const mode = { stereo: "", mono: "mono", swap: "swapped", left: "left", right: "right" }[
      choice(params, "mode") as "stereo"
    ];
    const width = num(params, "widthPercent");
    return [mode, width === 100 ? "" : `width ${width} %`].filter(Boolean).join(", ") || "stereo";
  },
  latency: () => 0,
  settle: () => 0,
  widens: (params) => num(params, "balancePercent") !== 0,
  create(params) {
    const [a, b, c, d] = channelMatrix(params);
    const plain = a === 1 && b === 0 && c === 0 && d === 1;
    return {
      process(l, r, n) {
        if (!plain) kernels.matrix(l, r, n, a, b, c, d);
      },
      release: () => undefined
    };
  }
};
