import { kernels } from "../kernels/instance";
import { isOn, type EffectDescription } from "./description";
import { switchParam } from "./params";

export const polarity: EffectDescription = {
  id: "polarity",
  name: "Polarity",
  group: "channels",
  help: "Turns the wave of one or both channels upside down.",
  keywords: ["invert", "phase", "flip"],
  params: [
    switchParam("left", "Invert left", true, "Turns the left channel over."),
    switchParam("right", "Invert right", true, "Turns the right channel over.")
  ],
  presets: [
    { name: "Both sides", params: { left: true, right: true } },
    { name: "Right side only", params: { left: false, right: true } }
  ],
  summary(params) {
    const sides = [isOn(params, "left") && "left", isOn(params, "right") && "right"].filter(Boolean);
    return sides.length === 0 ? "as it is" : `inverts ${sides.join(" and ")}`;
  },
  latency: () => 0,
  settle: () => 0,
  widens: (params) => isOn(params, "left") !== isOn(params, "right"),
  create(params) {
    const left = isOn(params, "left");
    const right = isOn(params, "right");
    return {
      process(l, r, n) {
        if (left) kernels.gain(l, n, -1);
        if (right) kernels.gain(r, n, -1);
      },
      release: () => undefined
    };
  }
};
